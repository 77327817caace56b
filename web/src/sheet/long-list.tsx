'use client';

import Box from '@mui/material/Box';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Fragment, type ReactNode, useLayoutEffect, useRef, useState } from 'react';

/** Up to so many rows all are drawn: the browser's own search finds them, and nothing has to be measured. */
const SHORT = 60;

function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  for (let at = element?.parentElement ?? null; at; at = at.parentElement)
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at;
  return null;
}

interface LongListProps {
  count: number;
  /** About how high a row is, px, before it is measured. */
  estimate: number;
  keyOf(i: number): string;
  children(i: number): ReactNode;
}

/** Rows of a list that may be long, in whatever scrolls it: of a long one only those are drawn that are seen, or nearly. */
export function LongList({ count, keyOf, children, ...rest }: LongListProps) {
  if (count <= SHORT) return Array.from({ length: count }, (_, i) => <Fragment key={keyOf(i)}>{children(i)}</Fragment>);
  return (
    <Seen count={count} keyOf={keyOf} {...rest}>
      {children}
    </Seen>
  );
}

function Seen({ count, estimate, keyOf, children }: LongListProps) {
  const list = useRef<HTMLDivElement>(null);
  const [scroller, setScroller] = useState<HTMLElement | null>(null);
  const [before, setBefore] = useState(0);
  // What stands above it in the same column may have grown or shrunk.
  useLayoutEffect(() => {
    const found = scrollerOf(list.current);
    setScroller(found);
    if (found && list.current) {
      const above = list.current.getBoundingClientRect().top - found.getBoundingClientRect().top + found.scrollTop;
      if (Math.abs(above - before) > 1) setBefore(above);
    }
  });
  const rows = useVirtualizer({
    count,
    getScrollElement: () => scroller,
    estimateSize: () => estimate,
    getItemKey: keyOf,
    scrollMargin: before,
    overscan: 8,
  });
  return (
    <Box ref={list} sx={{ position: 'relative', height: rows.getTotalSize() }}>
      {rows.getVirtualItems().map((row) => (
        <Box
          key={row.key}
          ref={rows.measureElement}
          data-index={row.index}
          sx={{ position: 'absolute', top: 0, left: 0, right: 0 }}
          style={{ transform: `translateY(${row.start - before}px)` }}
        >
          {children(row.index)}
        </Box>
      ))}
    </Box>
  );
}
