'use client';

import Box from '@mui/material/Box';
import { leaveOnEnter, Written } from './plain';

/** A row with a name that can be typed over: taken when the field is left or Enter is pressed, an empty one is not. */
export function NameField({
  label,
  value,
  onName,
  id,
  most = 80,
  width = 148,
}: {
  label: string;
  value: string;
  onName(name: string): void;
  id: string;
  most?: number;
  width?: number;
}) {
  return (
    <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', minHeight: 30, gap: 1 }}>
      <Box component="label" htmlFor={id} className="narrow">
        {label}
      </Box>
      <Written
        id={id}
        key={value}
        defaultValue={value}
        inputProps={{ maxLength: most }}
        onBlur={(e) => {
          const name = e.target.value.trim();
          if (!name) e.target.value = value;
          else if (name !== value) onName(name);
        }}
        onKeyDown={leaveOnEnter}
        sx={{ width }}
      />
    </Box>
  );
}
