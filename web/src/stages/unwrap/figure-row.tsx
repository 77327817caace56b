'use client';

import Box from '@mui/material/Box';

/** A measured figure with its unit. */
export function FigureRow({
  label,
  value,
  unit = '',
  why,
  bad = false,
}: {
  label: string;
  value: string;
  unit?: string;
  why?: string;
  bad?: boolean;
}) {
  return (
    <Box
      data-figure={label}
      sx={{
        display: 'flex',
        justifyContent: 'space-between',
        alignItems: 'baseline',
        gap: 1,
        py: 0.6,
        borderBottom: 1,
        borderColor: 'sheet.faint',
        color: bad ? 'error.main' : 'text.primary',
      }}
    >
      <Box sx={{ fontSize: 13 }}>
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
