import Box from '@mui/material/Box';

/** What stands where a page is not there yet. */
export const Opening = ({ children = 'Opening …' }: { children?: string }) => (
  <Box sx={{ height: '100vh', bgcolor: 'sheet.plate', display: 'grid', placeItems: 'center', color: 'text.secondary' }}>{children}</Box>
);
