import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';

/** A list of rows of one height, of which only those in sight are there; the selected one is brought into sight. */
export function LongList<T extends { id: string }>({
  rows,
  rowHeight,
  selected,
  label,
  className,
  roles,
  children,
}: {
  rows: readonly T[];
  /** CSS pixels. */
  rowHeight: number;
  selected: string | null;
  label: string;
  className: string;
  /** Where it is a part of something other than a list. */
  roles?: { list: string; row: string };
  children: (row: T) => ReactNode;
}) {
  const list = useRef<HTMLUListElement>(null);
  // It is not memoised by a compiler here.
  // eslint-disable-next-line react-hooks/incompatible-library
  const shown = useVirtualizer({
    count: rows.length,
    getScrollElement: () => list.current,
    estimateSize: () => rowHeight,
    getItemKey: (index) => rows[index].id,
    overscan: 4,
  });
  const at = rows.findIndex(({ id }) => id === selected);
  useEffect(() => {
    if (at >= 0) shown.scrollToIndex(at, { align: 'auto' });
  }, [shown, at]);
  return (
    <ul
      ref={list}
      role={roles?.list}
      className={`relative overflow-y-auto ${className}`}
      aria-label={roles ? undefined : label}
    >
      <li aria-hidden role={roles?.row} style={{ height: shown.getTotalSize() }} />
      {shown.getVirtualItems().map(({ key, index, start }) => (
        <li
          key={key}
          role={roles?.row}
          aria-setsize={roles ? undefined : rows.length}
          aria-posinset={roles ? undefined : index + 1}
          className="absolute inset-x-0"
          style={{ top: start, height: rowHeight }}
        >
          {children(rows[index])}
        </li>
      ))}
    </ul>
  );
}
