import { TriangleAlert } from 'lucide-react';
import type { ReactNode } from 'react';

/** What went wrong and the way on, in the place where the thing would have been. */
export function ErrorNote({ message, children }: { message: string; children?: ReactNode }) {
  return (
    <div role="alert" className="m-auto flex max-w-md flex-col items-center gap-3 p-8 text-center">
      <TriangleAlert className="text-warning" aria-hidden />
      <p>{message}</p>
      {children}
    </div>
  );
}
