import { useDocument } from './document';
import { useView, type Guide } from './view';

// Guide marks are kept in this browser, clip by clip: they are for one person's eye.

const place = (clipId: string): string => `lurn-guides-${clipId}`;

/** The guide marks that were set on a clip before. */
export function guidesOf(clipId: string): Guide[] {
  try {
    return JSON.parse(localStorage.getItem(place(clipId)) ?? '[]') as Guide[];
  } catch {
    return [];
  }
}

useView.subscribe(({ guides }, before) => {
  const { clip } = useDocument.getState();
  if (guides === before.guides || !clip) return;
  if (guides.length > 0) localStorage.setItem(place(clip.id), JSON.stringify(guides));
  else localStorage.removeItem(place(clip.id));
});
