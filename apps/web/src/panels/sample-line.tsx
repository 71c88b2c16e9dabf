import { useEffect, useRef } from 'react';
import { useEditor } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { isTrouble } from '../state/troubles';
import { sampleInWords } from '../ui/format';

/** Where the selected track is on the frame shown, and how sure; written without drawing the page anew. */
export function SampleLine() {
  const line = useRef<HTMLParagraphElement>(null);
  useEffect(() => {
    let written = '';
    const write = (): void => {
      const { selected, samples } = useEditor.getState();
      const { shown } = usePlayhead.getState();
      const here = selected ? (samples.get(selected)?.get(shown) ?? null) : null;
      const text = sampleInWords(here);
      if (!line.current || text === written) return;
      line.current.textContent = written = text;
      line.current.classList.toggle('text-warning', here !== null && isTrouble(here.state, here.confidence));
    };
    write();
    const stops = [usePlayhead.subscribe(write), useEditor.subscribe(write)];
    return () => stops.forEach((stop) => stop());
  }, []);
  return (
    <p
      ref={line}
      className="mt-1.5 truncate font-mono text-[11px] tracking-tighter text-base-content/70"
      title="The selected track on this frame: where it is, how it has turned and grown, how sure that is"
      data-testid="sample-line"
    />
  );
}
