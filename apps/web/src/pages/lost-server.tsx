import { useSync } from '../state/sync';

/** Says that the server does not answer, and what to do meanwhile. */
export function LostServer() {
  const connected = useSync((s) => s.connected);
  if (connected) return null;
  return (
    <p role="alert" className="border-b border-base-300 bg-warning/10 px-4 py-1.5 text-warning">
      The server does not answer. Look on meanwhile; what you change is kept here and sent when it is back. If
      it was stopped, start it again.
    </p>
  );
}
