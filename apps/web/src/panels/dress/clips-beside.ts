import type { ClipCard } from '@lurn/contract';
import { useQuery } from '@tanstack/react-query';
import { api } from '../../api/client';
import { useDocument } from '../../state/document';

/** The other clips of the project that can be shown. */
export function useClipsBeside(): ClipCard[] {
  const clip = useDocument((s) => s.clip);
  const { data } = useQuery({
    queryKey: ['project', clip?.projectId],
    queryFn: () => api.project(clip?.projectId ?? ''),
    enabled: clip !== null,
  });
  return data?.clips.filter(({ id, state }) => id !== clip?.id && state === 'ready') ?? [];
}
