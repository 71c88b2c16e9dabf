import Uppy, { type UppyFile } from '@uppy/core';
import GoldenRetriever from '@uppy/golden-retriever';
import Tus from '@uppy/tus';
import { toast } from 'sonner';
import { create } from 'zustand';
import { api } from '../api/client';

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

/** Pictures that become one clip once all have arrived. */
interface PictureSet {
  project: string;
  name: string;
  rate: string;
  count: number;
  uploads: string[];
}

interface UploadState {
  sending: Sending[];
}

export const useUploads = create<UploadState>(() => ({ sending: [] }));

/** What the browser may keep of files that are on their way; the plugin's types leave the limits out. */
const kept: object = { maxFileSize: 4 * 2 ** 30, maxTotalSize: 8 * 2 ** 30 };
const sets = new Map<string, PictureSet>();
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
    const share = set.uploads.length / set.count;
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
  if (file.meta.set) sets.delete(file.meta.set);
  setTimeout(() => uppy.removeFile(file.id));
});
uppy.on('upload-success', (file, response) => {
  if (!file) return;
  const { set, purpose } = file.meta;
  // Taken away at once, the plugin would think that the upload is to be undone.
  setTimeout(() => uppy.removeFile(file.id));
  if (purpose === 'picture' && set) void arrived(set, response.uploadURL ?? '');
  if (purpose === 'project') {
    toast.success(`"${file.meta.filename}" is opened as a project of its own.`);
    projectsRead.forEach((tell) => tell());
  }
});
uppy.on('restored', () => {
  // Pictures of a set cannot go on: what the set was to become is not known any more.
  for (const file of uppy.getFiles())
    if (file.meta.purpose === 'picture' || (file as File_ & { isGhost?: boolean }).isGhost)
      uppy.removeFile(file.id);
  show();
  // Nobody need be asked: what was on its way goes on.
  if (uppy.getFiles().length > 0) uppy.emit('restore-confirmed');
});

async function arrived(id: string, address: string): Promise<void> {
  const set = sets.get(id);
  if (!set) return;
  set.uploads.push(address.split('/').pop() ?? '');
  show();
  if (set.uploads.length < set.count) return;
  sets.delete(id);
  try {
    const { name, rate, uploads } = set;
    await api.sequence(set.project, { name, rate, uploads });
  } catch (error) {
    toast.error((error as Error).message, { duration: 10_000 });
  }
  show();
}

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
  sets.set(id, { project, name, rate, count: files.length, uploads: [] });
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
  if (sets.delete(id))
    uppy
      .getFiles()
      .filter((file) => file.meta.set === id)
      .forEach((file) => uppy.removeFile(file.id));
  else uppy.removeFile(id);
  show();
}
