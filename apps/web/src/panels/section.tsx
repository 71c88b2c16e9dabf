import type { ReactNode } from 'react';

export function Section({
  title,
  aside,
  children,
}: {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className="border-b border-base-300 px-3.5 py-3" aria-label={title}>
      <header className="mb-2 flex items-center justify-between">
        <h2 className="text-[11px] font-semibold tracking-[0.08em] text-base-content/75 uppercase">
          {title}
        </h2>
        {aside}
      </header>
      {children}
    </section>
  );
}
