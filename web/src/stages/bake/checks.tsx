import Box from '@mui/material/Box';
import { Act } from '@/sheet/plain';

interface Check<F extends string> {
  id: string;
  level: 'ok' | 'near' | 'over';
  sentence: string;
  fix?: F;
}

/** What is looked for before something is begun, each with a click that mends it. */
export function Checks<F extends string>({
  label,
  checks,
  mends,
  onMend,
}: {
  label: string;
  checks: readonly Check<F>[];
  mends: Record<F, string>;
  onMend(fix: F): void;
}) {
  return (
    <Box component="ul" aria-label={label} sx={{ listStyle: 'none', p: 0, my: 0.8, fontSize: 12.5 }}>
      {checks.map((c) => (
        <Box
          component="li"
          key={c.id}
          sx={{ color: c.level === 'over' ? 'error.main' : c.level === 'near' ? 'warning.main' : 'text.secondary', mb: 0.4 }}
        >
          {c.sentence}{' '}
          {c.fix && (
            <Act quiet onClick={() => c.fix && onMend(c.fix)}>
              {mends[c.fix]}
            </Act>
          )}
        </Box>
      ))}
    </Box>
  );
}
