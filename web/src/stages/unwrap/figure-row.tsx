'use client';

import Box from '@mui/material/Box';

/** A measured figure with its unit. */
export function FigureRow({
  label,
  value,
  unit = '',
  why,
  bad = false,
  under = false,
}: {
  label: string;
  value: string;
  unit?: string;
  why?: string;
  bad?: boolean;
  /** A share of the figure above it. */
  under?: boolean;
}) {
  return (
    <Box
      data-figure={label}
      sx={{
        display: 'flex',
        justifyContent: 'space-between',
        alignItems: 'baseline',
        gap: 1,
        py: under ? 0.25 : 0.6,
        pl: under ? 1.2 : 0,
        borderBottom: 1,
        borderColor: 'sheet.faint',
        color: bad ? 'error.main' : 'text.primary',
      }}
    >
      <Box className={under ? 'narrow' : undefined} sx={{ fontSize: under ? 12 : 13, ...(under && { color: 'text.secondary' }) }}>
        {label}{' '}
        {why && (
          <Box component="span" className="narrow" sx={{ color: 'text.secondary', fontSize: 12 }}>
            {why}
          </Box>
        )}
      </Box>
      <Box className="mono" sx={{ fontSize: 13, whiteSpace: 'nowrap' }}>
        {value}{' '}
        <Box component="span" className="narrow" sx={{ color: bad ? 'inherit' : 'text.secondary', fontSize: 12 }}>
          {unit}
        </Box>
      </Box>
    </Box>
  );
}
