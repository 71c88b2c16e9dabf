import type { Match, RoundTrip } from '@lurn/core';
import type {
  AssetView,
  ClipCard,
  ClipChange,
  ClipView,
  ErrorView,
  ExportRequest,
  ExportsView,
  JobView,
  LeftOutView,
  KeyRequest,
  CornersRequest,
  NewRegionRequest,
  NewTrackRequest,
  MediaEntry,
  MediaFolder,
  NewTracksRequest,
  OutsideRequest,
  PlaceScoreView,
  ProjectCard,
  ProjectView,
  ScenePatch,
  SceneRequest,
  SequenceRequest,
  SettingsView,
  SeveralExportsRequest,
  SteadyLikeRequest,
  SteadyRequest,
  SuggestionView,
  SuggestRequest,
  TracksCarryRequest,
  TracksInterpolateRequest,
  TracksJoinRequest,
  TracksPatchRequest,
  TracksRequest,
  TracksSmoothRequest,
  TracksSpanRequest,
  TrackRunRequest,
  UnfinishedUpload,
} from '@lurn/contract';

/** A refusal by the server, or the lack of one; the message is meant for people. */
export class ApiError extends Error {
  override name = 'ApiError';
  constructor(
    message: string,
    /** 0 where no answer came. */
    readonly status: number,
    /** What another window has done that this would have written over. */
    readonly conflict?: string,
  ) {
    super(message);
  }
}

/** This browser window, by a name that says nothing else. */
export const windowName = crypto.randomUUID();

/** Where an edit comes from: a name of its own, and what its window had seen; null to have it done regardless. */
export interface EditNote {
  key: string;
  base: number | null;
}

/** A request this short is sent even while its page is being left: the browser takes no more than 64 KiB of those. */
const sentOnLeaving = 60_000;

async function call<T>(
  method: string,
  path: string,
  body?: unknown,
  note?: EditNote,
  type = 'application/json',
): Promise<T> {
  let response: Response;
  const sent = typeof body === 'string' ? body : body === undefined ? undefined : JSON.stringify(body);
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers: {
        'x-lurn-window': windowName,
        ...(sent === undefined ? {} : { 'content-type': type }),
        ...(note ? { 'x-lurn-edit': note.key } : {}),
        ...(note && note.base !== null ? { 'x-lurn-base': `${note.base}` } : {}),
      },
      body: sent,
      keepalive: method !== 'GET' && (sent?.length ?? 0) < sentOnLeaving,
    });
  } catch {
    throw new ApiError('The server does not answer. Is it running?', 0);
  }
  const text = await response.text();
  if (!response.ok) throw refusal(text, response.status);
  return (text ? JSON.parse(text) : undefined) as T;
}

function refusal(text: string, status: number): ApiError {
  try {
    const { message, conflict } = JSON.parse(text) as ErrorView;
    return new ApiError(Array.isArray(message) ? message.join('; ') : message, status, conflict);
  } catch {
    return new ApiError('The server gave an answer that cannot be read.', status);
  }
}

export const api = {
  projects: () => call<ProjectCard[]>('GET', '/projects'),
  createProject: (name: string) => call<ProjectView>('POST', '/projects', { name }),
  project: (id: string) => call<ProjectView>('GET', `/projects/${id}`),
  renameProject: (id: string, name: string) => call<ProjectView>('PATCH', `/projects/${id}`, { name }),
  duplicateProject: (id: string) => call<ProjectView>('POST', `/projects/${id}/copies`),
  deleteProject: (id: string) => call<void>('DELETE', `/projects/${id}`),
  restoreProject: (id: string) => call<ProjectView>('POST', `/projects/${id}/restore`),
  unfinished: (projectId: string) => call<UnfinishedUpload[]>('GET', `/projects/${projectId}/uploads`),
  sequence: (projectId: string, request: SequenceRequest) =>
    call<ClipCard>('POST', `/projects/${projectId}/sequences`, request),
  outside: (projectId: string, request: OutsideRequest) =>
    call<ClipCard>('POST', `/projects/${projectId}/outside`, request),
  folders: () => call<MediaFolder[]>('GET', '/media'),
  entries: (folder: number, path: string) =>
    call<MediaEntry[]>('GET', `/media/${folder}?path=${encodeURIComponent(path)}`),
  settings: () => call<SettingsView>('GET', '/settings'),
  useCores: (cores: number) => call<SettingsView>('PATCH', '/settings', { cores }),
  clip: (id: string) => call<ClipView>('GET', `/clips/${id}`),
  renameClip: (id: string, name: string) => call<ClipCard>('PATCH', `/clips/${id}`, { name }),
  deleteClip: (id: string) => call<void>('DELETE', `/clips/${id}`),
  restoreClip: (id: string) => call<ClipCard>('POST', `/clips/${id}/restore`),
  readAgain: (id: string, asFields?: boolean) =>
    call<ClipCard>('POST', `/clips/${id}/read`, asFields === undefined ? {} : { asFields }),
  /** Tracks in a form to be handed on: those named, all where none are; only of a span, where there is one. */
  tracksText: async (address: string): Promise<string> => {
    const response = await fetch(address).catch(() => {
      throw new ApiError('The server does not answer. Is it running?', 0);
    });
    const text = await response.text();
    if (!response.ok) throw refusal(text, response.status);
    return text;
  },
  /** Packed data of a record, such as the samples of a track: pages, each after its number and length. */
  packed: async (id: string, column: string): Promise<ArrayBuffer> => {
    const response = await fetch(`/api/records/${id}/${column}`).catch(() => {
      throw new ApiError('The server does not answer. Is it running?', 0);
    });
    if (!response.ok) throw refusal(await response.text(), response.status);
    return response.arrayBuffer();
  },
  early: (id: string) => call<{ frames: number }>('GET', `/clips/${id}/early`),
  suggest: (clipId: string, request: SuggestRequest) =>
    call<SuggestionView[]>('POST', `/clips/${clipId}/suggestions`, request),
  score: (clipId: string, frame: number, x: number, y: number) =>
    call<PlaceScoreView>('GET', `/clips/${clipId}/frames/${frame}/score?x=${x}&y=${y}`),
  leftOut: (trackId: string, frame: number) =>
    call<LeftOutView | Record<string, never>>('GET', `/tracks/${trackId}/frames/${frame}/left-out`),
  warm: (clipId: string, frame: number) => call<void>('POST', `/clips/${clipId}/frames/${frame}/warm`),
  cancel: (jobId: string) => call<void>('DELETE', `/jobs/${jobId}`),
  again: (jobId: string) => call<void>('POST', `/jobs/${jobId}/again`),
  follow: (clipId: string, request: TrackRunRequest) =>
    call<JobView>('POST', `/clips/${clipId}/track-runs`, request),
  findScene: (clipId: string, request: SceneRequest) =>
    call<JobView>('POST', `/clips/${clipId}/scene`, request),
  copyLayerTo: (id: string, clipId: string) => call<ClipChange>('POST', `/layers/${id}/copies`, { clipId }),
  roundTrip: (clipId: string, frame: number, layer: object) =>
    call<RoundTrip>('POST', `/clips/${clipId}/frames/${frame}/round-trip`, { layer }),
  around: (clipId: string, frame: number, layerId: string) =>
    call<Match>('GET', `/clips/${clipId}/frames/${frame}/around/${layerId}`),
  /** A picture that layers may show. */
  bringAsset: async (file: File): Promise<AssetView> => {
    const form = new FormData();
    form.append('file', file);
    const response = await fetch('/api/assets', { method: 'POST', body: form }).catch(() => {
      throw new ApiError('The server does not answer. Is it running?', 0);
    });
    const text = await response.text();
    if (!response.ok) throw refusal(text, response.status);
    return JSON.parse(text) as AssetView;
  },
  queue: (projectId: string) => call<JobView[]>('GET', `/projects/${projectId}/queue`),
  steadyLike: (clipId: string, request: SteadyLikeRequest) =>
    call<ExportsView>('POST', `/clips/${clipId}/like`, request),
  export: (clipId: string, request: ExportRequest) =>
    call<JobView>('POST', `/clips/${clipId}/exports`, request),
  clearExport: (id: string) => call<void>('DELETE', `/exports/${id}`),
  exportSeveral: (request: SeveralExportsRequest) => call<ExportsView>('POST', '/exports', request),
};

/** The edits, each said to come from where the note says. */
export const edits = (note: EditNote) => ({
  placeTrack: (clipId: string, request: NewTrackRequest) =>
    call<ClipChange>('POST', `/clips/${clipId}/tracks`, request, note),
  placeTracks: (clipId: string, request: NewTracksRequest) =>
    call<ClipChange>('POST', `/clips/${clipId}/tracks/many`, request, note),
  drawRegion: (clipId: string, request: NewRegionRequest) =>
    call<ClipChange>('POST', `/clips/${clipId}/regions`, request, note),
  setCorners: (id: string, frame: number, request: CornersRequest) =>
    call<ClipChange>('PUT', `/tracks/${id}/keys/${frame}/corners`, request, note),
  changeTracks: (request: TracksPatchRequest) => call<ClipChange>('PATCH', '/tracks', request, note),
  deleteTracks: (request: TracksRequest) => call<ClipChange>('POST', '/tracks/delete', request, note),
  setKey: (id: string, frame: number, key: KeyRequest) =>
    call<ClipChange>('PUT', `/tracks/${id}/keys/${frame}`, key, note),
  clearSpan: (request: TracksSpanRequest) => call<ClipChange>('POST', '/tracks/clear', request, note),
  interpolate: (request: TracksInterpolateRequest) =>
    call<ClipChange>('POST', '/tracks/interpolate', request, note),
  smooth: (request: TracksSmoothRequest) => call<ClipChange>('POST', '/tracks/smooth', request, note),
  duplicateTracks: (request: TracksRequest) => call<ClipChange>('POST', '/tracks/duplicate', request, note),
  joinTracks: (request: TracksJoinRequest) => call<ClipChange>('POST', '/tracks/join', request, note),
  carryMotion: (request: TracksCarryRequest) => call<ClipChange>('POST', '/tracks/carry', request, note),
  moveKey: (id: string, frame: number, to: number) =>
    call<ClipChange>('POST', `/tracks/${id}/keys/${frame}/move`, { to }, note),
  /** Tracks as a lurn-tracks file. */
  importTracks: (clipId: string, file: string) =>
    call<ClipChange>(
      'POST',
      `/clips/${clipId}/tracks/import`,
      file,
      note,
      'application/vnd.lurn.tracks+json',
    ),
  changeScene: (id: string, patch: ScenePatch) => call<ClipChange>('PATCH', `/scenes/${id}`, patch, note),
  deleteScene: (id: string) => call<ClipChange>('DELETE', `/scenes/${id}`, undefined, note),
  setSteady: (clipId: string, request: SteadyRequest) =>
    call<ClipChange>('PATCH', `/clips/${clipId}/steady`, request, note),
  addLayer: (clipId: string, layer: object) =>
    call<ClipChange>('POST', `/clips/${clipId}/layers`, { layer }, note),
  changeLayer: (id: string, layer: object) => call<ClipChange>('PUT', `/layers/${id}`, { layer }, note),
  removeLayer: (id: string) => call<ClipChange>('DELETE', `/layers/${id}`, undefined, note),
  moveLayer: (id: string, to: number) => call<ClipChange>('POST', `/layers/${id}/move`, { to }, note),
  copyLayer: (id: string, clipId: string) =>
    call<ClipChange>('POST', `/layers/${id}/copies`, { clipId }, note),
  keepSteady: (clipId: string, name: string) =>
    call<ClipChange>('POST', `/clips/${clipId}/kept`, { name }, note),
  dropSteady: (clipId: string, id: string) =>
    call<ClipChange>('DELETE', `/clips/${clipId}/kept/${id}`, undefined, note),
  undo: (clipId: string) => call<ClipChange>('POST', `/clips/${clipId}/undo`, undefined, note),
  redo: (clipId: string) => call<ClipChange>('POST', `/clips/${clipId}/redo`, undefined, note),
});

export type Edits = ReturnType<typeof edits>;
