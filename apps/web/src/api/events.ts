import type { ProjectEvent } from '@lurn/contract';

/** Listens to a project's event stream; the browser connects again by itself and resumes. Returns the way to stop. */
export function listen(
  projectId: string,
  onEvent: (event: ProjectEvent) => void,
  onConnection: (connected: boolean) => void,
): () => void {
  const stream = new EventSource(`/api/projects/${projectId}/events`);
  stream.onopen = () => onConnection(true);
  stream.onerror = () => onConnection(false);
  stream.onmessage = ({ data }: MessageEvent<string>) => {
    if (data) onEvent(JSON.parse(data) as ProjectEvent);
  };
  return () => stream.close();
}
