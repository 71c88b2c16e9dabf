import { startOf } from '@lurn/core';
import { useEffect, useRef } from 'react';
import { timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { usePlayhead } from '../state/playhead';
import { usePreferences } from '../state/preferences';

/** Seconds that sound may be off the picture before it is brought back to it. */
const mostOff = 0.12;

/** The clip's sound, at the clip's own rate: it goes with the picture that is shown. */
export function Sound() {
  const clip = useDocument((s) => s.clip);
  const has = clip?.sound !== null && clip?.sound !== undefined;
  const muted = usePreferences((s) => s.muted);
  const rate = usePreferences((s) => s.playbackRate);
  const element = useRef<HTMLAudioElement>(null);
  const heard = has && !muted && rate === 1;
  useEffect(() => {
    const audio = element.current;
    if (!audio || !clip || !heard) return;
    const times = timesOf(clip);
    let began = false;
    const follow = ({ playing, frame }: { playing: boolean; frame: number }): void => {
      if (!playing) {
        if (began) audio.pause();
        began = false;
        return;
      }
      const wanted = startOf(times, frame);
      if (!began || Math.abs(audio.currentTime - wanted) > mostOff) audio.currentTime = wanted;
      if (!began) void audio.play().catch(() => undefined);
      began = true;
    };
    follow(usePlayhead.getState());
    const stop = usePlayhead.subscribe(follow);
    return () => {
      stop();
      audio.pause();
    };
  }, [clip, heard]);
  if (!clip || !heard) return null;
  return (
    // It is the clip's own sound: there are no words to show for it.
    // eslint-disable-next-line jsx-a11y/media-has-caption
    <audio ref={element} src={`/api/clips/${clip.id}/sound`} preload="auto" data-testid="sound" />
  );
}
