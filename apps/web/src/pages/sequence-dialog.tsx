import { parseFrameRate } from '@lurn/core';
import { useState, type FormEvent } from 'react';
import { Dialog } from '../ui/dialog';

/** Pictures, or a zip of them, that are to become a clip. */
export interface FreshSequence {
  name: string;
  files: File[];
}

const usual = ['24', '25', '30', '50', '60', '24000/1001', '30000/1001', '60000/1001'];

/** Asks how fast a sequence of pictures is to run. */
export function SequenceDialog({
  sequence,
  onDone,
}: {
  sequence: FreshSequence | null;
  onDone: (chosen: { name: string; rate: string } | null) => void;
}) {
  return (
    <Dialog open={sequence !== null} label="Pictures in a row" onClose={() => onDone(null)}>
      {sequence && <SequenceForm sequence={sequence} onDone={onDone} />}
    </Dialog>
  );
}

function SequenceForm({
  sequence,
  onDone,
}: {
  sequence: FreshSequence;
  onDone: (chosen: { name: string; rate: string } | null) => void;
}) {
  const [name, setName] = useState(sequence.name);
  const [rate, setRate] = useState('25');
  const wrong = !isRate(rate);
  const keep = (event: FormEvent): void => {
    event.preventDefault();
    if (!wrong && name.trim()) onDone({ name: name.trim(), rate });
  };
  const { length } = sequence.files;
  return (
    <form className="modal-box max-w-md" onSubmit={keep}>
      <h2 className="text-lg font-semibold">Pictures in a row</h2>
      <p className="mt-1 text-base-content/75">
        {length > 1 ? `${length} pictures, ` : 'The pictures of the zip, '}
        in the order of their names, become one clip.
      </p>
      <label className="mt-4 block">
        <span className="mb-1 block text-base-content/75">Name</span>
        <input
          className="input input-sm w-full"
          maxLength={120}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="mt-3 block">
        <span className="mb-1 block text-base-content/75">Pictures a second</span>
        <input
          className={`input input-sm w-40 font-mono ${wrong ? 'input-error' : ''}`}
          list="usual-rates"
          value={rate}
          aria-invalid={wrong}
          onChange={(event) => setRate(event.target.value.trim())}
        />
        <datalist id="usual-rates">
          {usual.map((value) => (
            <option key={value} value={value} />
          ))}
        </datalist>
        <span className="ml-3 text-base-content/75">25, or exactly, like 24000/1001</span>
      </label>
      <div className="modal-action">
        <button type="button" className="btn btn-sm" onClick={() => onDone(null)}>
          Cancel
        </button>
        <button className="btn btn-sm btn-primary" disabled={wrong || !name.trim()}>
          Make a clip
        </button>
      </div>
    </form>
  );
}

function isRate(text: string): boolean {
  try {
    parseFrameRate(text);
    return true;
  } catch {
    return false;
  }
}
