import Uppy, { type UppyFile } from '@uppy/core';
import GoldenRetriever from '@uppy/golden-retriever';
import Tus from '@uppy/tus';
import { toast } from 'sonner';
import { create } from 'zustand';
import { api, type ApiError } from '../api/client';

/** What comes with an upload, told to the server. */
type Meta = {
  filename: string;
  purpose: 'clip' | 'picture' | 'original' | 'project';
  project?: string;
  /** The clip whose original it is. */
  clip?: string;
  rate?: string;
  /** The set of pictures it belongs to. */
  set?: string;
};
type Body = Record<string, never>;

export interface Sending {
  id: string;
  name: string;
  project: string;
  share: number;
  /** It stands still, and goes on by itself once there is a connection. */
  waiting: boolean;
}

/** Pictures that become one clip once all have arrived; `uploads` by the file's id in the page. */
interface PictureSet {
  project: string;
  name: string;
  rate: string;
  count: number;
  uploads: Record<string, string>;
}

interface UploadState {
  sending: Sending[];
}

export const useUploads = create<UploadState>(() => ({ sending: [] }));

/** What the browser may keep of files that are on their way; the plugin's types leave the limits out. */
const kept: object = { maxFileSize: 4 * 2 ** 30, maxTotalSize: 8 * 2 ** 30 };
/** Sets of pictures outlive a reload, as their files do. */
const setsKept = 'lurn.picture-sets';
const sets = new Map(JSON.parse(sessionStorage.getItem(setsKept) ?? '[]') as [string, PictureSet][]);
const keepSets = (): void => sessionStorage.setItem(setsKept, JSON.stringify([...sets]));
const projectsRead = new Set<() => void>();

// One for the page, not for a room: walking about does not stop an upload. Files are kept by the browser until they
// have arrived, so that a reload goes on where it broke off.
const uppy = new Uppy<Meta, Body>({ autoProceed: true, allowMultipleUploadBatches: true })
  .use(Tus, {
    endpoint: '/api/uploads',
    limit: 3,
    removeFingerprintOnSuccess: true,
    retryDelays: [200, 500, 1000, 2000, 4000, ...Array<number>(60).fill(5000)],
    allowedMetaFields: ['filename', 'purpose', 'project', 'clip', 'rate'],
    // What the server refuses, it refuses for good; everything else is tried again.
    onShouldRetry: (error) => {
      const status = error.originalResponse?.getStatus() ?? 0;
      return status === 0 || status === 423 || status === 409 || (status >= 500 && status !== 507);
    },
  })
  .use(GoldenRetriever, {
    expires: 24 * 3600e3,
    indexedDB: kept,
  });

type File_ = UppyFile<Meta, Body>;

function show(): void {
  const sending = uppy
    .getFiles()
    .filter((file) => !file.progress.uploadComplete && !file.error && file.meta.purpose !== 'picture')
    .map((file) => ({
      id: file.id,
      name: file.meta.filename,
      project: file.meta.project ?? '',
      share: file.size ? Number(file.progress.bytesUploaded || 0) / file.size : 0,
      waiting: !navigator.onLine,
    }));
  for (const [id, set] of sets) {
    const share = Object.keys(set.uploads).length / set.count;
    sending.push({ id, name: set.name, project: set.project, share, waiting: !navigator.onLine });
  }
  useUploads.setState({ sending });
}

uppy.on('file-added', show);
uppy.on('file-removed', show);
uppy.on('upload-progress', show);
uppy.on('upload-error', (file, error) => {
  if (!file) return;
  const answer = (error as { originalResponse?: { getBody: () => string } }).originalResponse?.getBody();
  toast.error(answer || `"${file.meta.filename}" could not be sent: ${error.message}`, { duration: 10_000 });
  if (file.meta.set) stopSending(file.meta.set);
  else setTimeout(() => uppy.removeFile(file.id));
});
uppy.on('upload-success', (file, response) => {
  if (!file) return;
  const { set, purpose } = file.meta;
  // Taken away at once, the plugin would think that the upload is to be undone.
  setTimeout(() => uppy.removeFile(file.id));
  if (purpose === 'picture' && set) void arrived(set, file.id, response.uploadURL ?? '');
  if (purpose === 'project') {
    toast.success(`"${file.meta.filename}" is opened as a project of its own.`);
    projectsRead.forEach((tell) => tell());
  }
});
uppy.on('restored', () => {
  for (const file of uppy.getFiles()) {
    const set = sets.get(file.meta.set ?? '');
    const done = file.meta.purpose === 'picture' && (!set || file.id in set.uploads);
    if (done || (file as File_ & { isGhost?: boolean }).isGhost) uppy.removeFile(file.id);
  }
  for (const [id, { name, uploads, count }] of sets) {
    const going = uppy.getFiles().filter(({ meta }) => meta.set === id).length;
    if (going + Object.keys(uploads).length >= count) continue;
    stopSending(id);
    toast.error(`Some pictures of "${name}" were not kept by the browser: drop them once more.`, {
      duration: 10_000,
    });
  }
  show();
  // Nobody need be asked: what was on its way goes on.
  if (uppy.getFiles().length > 0) uppy.emit('restore-confirmed');
});

async function arrived(id: string, file: string, address: string): Promise<void> {
  const set = sets.get(id);
  if (!set) return;
  set.uploads[file] = address.split('/').pop() ?? '';
  keepSets();
  show();
  if (Object.keys(set.uploads).length === set.count) await join(id, set);
}

async function join(id: string, set: PictureSet): Promise<void> {
  const { project, name, rate, uploads } = set;
  try {
    // In the order of their ids, so that asking once more after a reload asks for the same.
    await api.sequence(project, { name, rate, uploads: Object.values(uploads).sort() });
  } catch (error) {
    if ((error as ApiError).status === 0) {
      setTimeout(() => void join(id, set), 2000);
      return;
    }
    toast.error((error as Error).message, { duration: 10_000 });
  }
  sets.delete(id);
  keepSets();
  show();
}

// The page was left when all had arrived, and before the clip was asked for.
for (const [id, set] of sets) if (Object.keys(set.uploads).length === set.count) void join(id, set);

function add(file: File, meta: Omit<Meta, 'filename'>): void {
  try {
    uppy.addFile({ name: file.name, type: file.type, data: file, meta: { ...meta, filename: file.name } });
  } catch (error) {
    toast.error((error as Error).message);
  }
}

/** Sends videos, or zips of pictures with their rate, to become clips. */
export function sendClips(project: string, files: readonly File[], rate?: string): void {
  files.forEach((file) => add(file, { purpose: 'clip', project, ...(rate ? { rate } : {}) }));
}

/** Sends pictures that become one clip. */
export function sendPictures(project: string, name: string, rate: string, files: readonly File[]): void {
  const id = crypto.randomUUID();
  sets.set(id, { project, name, rate, count: files.length, uploads: {} });
  keepSets();
  files.forEach((file) => add(file, { purpose: 'picture', project, set: id }));
  show();
}

/** Sends the file of a clip whose original is missing. */
export const sendOriginal = (project: string, clip: string, file: File): void =>
  add(file, { purpose: 'original', project, clip });

/** Sends a project that was written to a file. */
export const sendProject = (file: File): void => add(file, { purpose: 'project' });

/** Hears when a project has been opened from a file. Returns the way to stop. */
export function onProjectRead(tell: () => void): () => void {
  projectsRead.add(tell);
  return () => projectsRead.delete(tell);
}

export function stopSending(id: string): void {
  if (sets.delete(id)) {
    keepSets();
    uppy
      .getFiles()
      .filter((file) => file.meta.set === id)
      .forEach((file) => uppy.removeFile(file.id));
  } else uppy.removeFile(id);
  show();
}
