import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

/** Asks in a few words why something is meant. */
export function WhyMeant({ does, onSay, onLeave }: { does: string; onSay(words: string): void; onLeave(): void }) {
  const [words, setWords] = useState('');
  const reason = words.trim();
  const say = () => reason.length >= 3 && onSay(reason);
  return (
    <Box sx={{ display: 'flex', gap: 1, mt: 0.6 }}>
      <TextField
        autoFocus
        fullWidth
        placeholder="because …"
        value={words}
        onChange={(e) => setWords(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') say();
          if (e.key === 'Escape') onLeave();
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Why it is meant', maxLength: 300 } }}
      />
      <Button onClick={say} disabled={reason.length < 3}>
        {does}
      </Button>
    </Box>
  );
}
