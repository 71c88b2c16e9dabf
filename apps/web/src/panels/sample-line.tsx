import { useEffect, useMemo, useRef } from 'react';
import { usePlayhead } from '../state/playhead';
import { isTrouble, troubles } from '../state/troubles';
import { sampleInWords } from '../ui/format';
import { reasonInWords } from '../ui/reason-in-words';
import { useDocument } from '../state/document';
import { useSelection } from '../state/selection';

/** Where the selected track is on the frame shown, how sure, and why no more; written without drawing the page anew. */
export function SampleLine() {
  const line = useRef<HTMLParagraphElement>(null);
  const why = useRef<HTMLParagraphElement>(null);
  const troubled = useTroubled();
  useEffect(() => {
    let written = '';
    const write = (): void => {
      const { selected } = useSelection.getState();
      const { samples } = useDocument.getState();
      const { shown } = usePlayhead.getState();
      const here = selected ? (samples.get(selected)?.get(shown) ?? null) : null;
      const text = sampleInWords(here);
      const reason = reasonInWords(here);
      const all = text + (reason?.why ?? '');
      if (!line.current || !why.current || all === written) return;
      written = all;
      line.current.textContent = text;
      line.current.classList.toggle('text-warning', here !== null && isTrouble(here.state, here.confidence));
      why.current.textContent = reason ? `${reason.why} ${reason.help}` : '';
    };
    write();
    const stops = [usePlayhead, useSelection, useDocument].map((store) => store.subscribe(write));
    return () => stops.forEach((stop) => stop());
  }, []);
  return (
    <>
      <p
        ref={line}
        className="mt-1.5 truncate font-mono text-[11px] tracking-tighter text-base-content/70"
        title="The selected track on this frame: where it is, how it has turned and grown, how sure that is"
        data-testid="sample-line"
      />
      {/* Room for two lines on all frames of a track in trouble: nothing below moves while they go by. */}
      <p
        ref={why}
        className={`mt-0.5 text-[11px] leading-[15px] text-base-content/70 ${troubled ? 'min-h-[30px]' : ''}`}
        data-testid="sample-reason"
      />
    </>
  );
}

/** Whether the selected track is in trouble on any frame. */
function useTroubled(): boolean {
  const selected = useSelection((s) => s.selected);
  const samples = useDocument((s) => (selected ? s.samples.get(selected) : undefined));
  return useMemo(() => troubles(samples).length > 0, [samples]);
}
