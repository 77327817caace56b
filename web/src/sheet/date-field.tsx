'use client';

import Box from '@mui/material/Box';
import { AdapterDayjs } from '@mui/x-date-pickers/AdapterDayjs';
import { DatePicker } from '@mui/x-date-pickers/DatePicker';
import { LocalizationProvider } from '@mui/x-date-pickers/LocalizationProvider';
import dayjs from 'dayjs';

/** Days are written as they are everywhere on the sheet, whatever the browser is set to (ISO 8601). */
const WRITTEN = 'YYYY-MM-DD';

/** A row with a day that can be typed or picked; cleared, there is none. */
export function DateField({ label, value, onDay }: { label: string; value: string | null; onDay(day: string | null): void }) {
  return (
    <LocalizationProvider dateAdapter={AdapterDayjs}>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 34, gap: 1 }}>
        <span className="narrow">{label}</span>
        <DatePicker
          value={value ? dayjs(value.slice(0, 10)) : null}
          format={WRITTEN}
          // While a year is typed it is the year 2 before it is 2026: that is not taken.
          minDate={dayjs('2000-01-01')}
          onAccept={(day, { validationError }) => {
            const taken = day?.isValid() && !validationError ? day.format(WRITTEN) : null;
            if ((day === null || taken !== null) && taken !== value) onDay(taken);
          }}
          slotProps={{
            textField: {
              size: 'small',
              // As high as the fields beside it.
              sx: {
                width: 150,
                '& .MuiPickersSectionList-root': { py: '4px', fontSize: 13, width: 'auto' },
                '& .MuiPickersInputBase-root': { px: 1, bgcolor: 'background.paper', borderRadius: 1 },
                '& .MuiPickersOutlinedInput-notchedOutline': { borderColor: 'divider' },
                '& .MuiIconButton-root': { p: 0.25 },
                '& .MuiSvgIcon-root': { fontSize: 17 },
              },
              slotProps: { htmlInput: { 'aria-label': label }, input: { 'aria-label': label } },
            },
            field: { clearable: true },
            openPickerButton: { size: 'small' },
          }}
        />
      </Box>
    </LocalizationProvider>
  );
}
