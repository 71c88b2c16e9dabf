import type {
  ClipCard,
  ClipChange,
  ClipView,
  ErrorView,
  JobView,
  InterpolateRequest,
  KeyRequest,
  NewTrackRequest,
  NewTracksRequest,
  PlaceScoreView,
  ProjectCard,
  ProjectView,
  SpanRequest,
  SteadyRequest,
  SuggestionView,
  SuggestRequest,
  TrackPatch,
  TrackRunRequest,
} from '@lurn/contract';

/** A refusal by the server, or the lack of one; the message is meant for people. */
export class ApiError extends Error {
  override name = 'ApiError';
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers: body === undefined ? {} : { 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
      keepalive: method !== 'GET',
    });
  } catch {
    throw new ApiError('The server does not answer. Is it running?', 0);
  }
  const text = await response.text();
  if (!response.ok) throw new ApiError(reason(text), response.status);
  return (text ? JSON.parse(text) : undefined) as T;
}

function reason(text: string): string {
  try {
    const { message } = JSON.parse(text) as ErrorView;
    return Array.isArray(message) ? message.join('; ') : message;
  } catch {
    return 'The server gave an answer that cannot be read.';
  }
}

export const api = {
  projects: () => call<ProjectCard[]>('GET', '/projects'),
  createProject: (name: string) => call<ProjectView>('POST', '/projects', { name }),
  project: (id: string) => call<ProjectView>('GET', `/projects/${id}`),
  clip: (id: string) => call<ClipView>('GET', `/clips/${id}`),
  deleteClip: (id: string) => call<void>('DELETE', `/clips/${id}`),
  placeTrack: (clipId: string, request: NewTrackRequest) =>
    call<ClipChange>('POST', `/clips/${clipId}/tracks`, request),
  changeTrack: (id: string, patch: TrackPatch) => call<ClipChange>('PATCH', `/tracks/${id}`, patch),
  deleteTrack: (id: string) => call<ClipChange>('DELETE', `/tracks/${id}`),
  placeTracks: (clipId: string, request: NewTracksRequest) =>
    call<ClipChange>('POST', `/clips/${clipId}/tracks/many`, request),
  setKey: (id: string, frame: number, key: KeyRequest) =>
    call<ClipChange>('PUT', `/tracks/${id}/keys/${frame}`, key),
  clearSpan: (id: string, span: SpanRequest) => call<ClipChange>('POST', `/tracks/${id}/clear`, span),
  interpolate: (id: string, request: InterpolateRequest) =>
    call<ClipChange>('POST', `/tracks/${id}/interpolate`, request),
  suggest: (clipId: string, request: SuggestRequest) =>
    call<SuggestionView[]>('POST', `/clips/${clipId}/suggestions`, request),
  score: (clipId: string, frame: number, x: number, y: number) =>
    call<PlaceScoreView>('GET', `/clips/${clipId}/frames/${frame}/score?x=${x}&y=${y}`),
  warm: (clipId: string, frame: number) => call<void>('POST', `/clips/${clipId}/frames/${frame}/warm`),
  follow: (clipId: string, request: TrackRunRequest) =>
    call<JobView>('POST', `/clips/${clipId}/track-runs`, request),
  cancel: (jobId: string) => call<void>('DELETE', `/jobs/${jobId}`),
  setSteady: (clipId: string, request: SteadyRequest) =>
    call<ClipChange>('PATCH', `/clips/${clipId}/steady`, request),
  undo: (clipId: string) => call<ClipChange>('POST', `/clips/${clipId}/undo`),
  redo: (clipId: string) => call<ClipChange>('POST', `/clips/${clipId}/redo`),
  export: (clipId: string) => call<JobView>('POST', `/clips/${clipId}/exports`),
};

/** Uploads a file, telling the share sent so far. */
export function upload(
  projectId: string,
  file: File,
  onShare: (share: number) => void,
  signal: AbortSignal,
): Promise<ClipCard> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `/api/projects/${projectId}/clips`);
    request.upload.onprogress = ({ loaded, total }) => onShare(total > 0 ? loaded / total : 0);
    request.onload = () => {
      if (request.status < 300) resolve(JSON.parse(request.responseText) as ClipCard);
      else reject(new ApiError(reason(request.responseText), request.status));
    };
    request.onerror = () =>
      reject(new ApiError(`"${file.name}" could not be sent: the connection broke.`, 0));
    request.onabort = () => reject(new ApiError(`"${file.name}" was not uploaded.`, 0));
    signal.addEventListener('abort', () => request.abort(), { once: true });
    const form = new FormData();
    form.append('file', file);
    request.send(form);
  });
}
