'use client';

import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import type { ReactNode } from 'react';
import { MONO } from '@/theme/theme';

export interface FigureRow {
  key: string;
  /** What the figures are of. */
  head: ReactNode;
  /** As many as there are columns after the first. */
  cells: readonly ReactNode[];
  /** Which of the cells are over something. */
  over?: readonly boolean[];
  chosen?: boolean;
  /** Of the row above it. */
  within?: boolean;
  /** The one that is set. */
  strong?: boolean;
  onClick?(): void;
}

/** A small table of figures: what they are of to the left, figures in columns to the right. */
export function FigureTable({
  label,
  columns,
  rows,
  wrap,
}: {
  label: string;
  columns?: readonly string[];
  rows: readonly FigureRow[];
  /** Long values go over several lines. */
  wrap?: boolean;
}) {
  return (
    <Table aria-label={label} size="small" sx={{ mt: 0.6 }}>
      {columns && (
        <TableHead>
          <TableRow>
            {columns.map((c, i) => (
              <TableCell key={c} scope="col" align={i === 0 ? 'left' : 'right'} className={i === 0 ? undefined : 'narrow'}>
                {c}
              </TableCell>
            ))}
          </TableRow>
        </TableHead>
      )}
      <TableBody>
        {rows.map((r) => (
          <TableRow
            key={r.key}
            selected={r.chosen}
            onClick={r.onClick}
            sx={{ ...(r.onClick && { cursor: 'pointer' }), ...(r.strong && { '& > *': { fontWeight: 600 } }) }}
          >
            <TableCell component="th" scope="row" className="narrow" sx={r.within ? { pl: 1.6, color: 'text.secondary' } : undefined}>
              {r.head}
            </TableCell>
            {r.cells.map((cell, i) => (
              <TableCell
                key={i}
                align="right"
                sx={{
                  fontFamily: MONO,
                  color: r.over?.[i] ? 'error.main' : r.within ? 'text.secondary' : undefined,
                  ...(wrap ? { overflowWrap: 'anywhere', verticalAlign: 'top' } : { whiteSpace: 'nowrap' }),
                }}
              >
                {cell}
              </TableCell>
            ))}
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}
