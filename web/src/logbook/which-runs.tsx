'use client';

import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import { useQuery } from '@tanstack/react-query';
import { ROLES } from '@wellmorph/core/pipeline/document';
import { useState } from 'react';
import type { RunsAtHand } from '@/server/db/runs';
import { get, send } from '@/session/api';
import { STATIONS } from '@/shared/stations';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { Act, Written } from '@/sheet/plain';
import { useAsk } from './queries';
import { queryOf, type Wanted, wantedFrom } from './wanted';

const ANY = ['', 'any'] as const;
const TRIED = STATIONS.filter((s) => s.id !== 'brief' && s.id !== 'hand-off');
/** A size that is no limit. */
const LARGEST = 100_000;

/** The filters, as one reads them; and those that were saved. */
export function WhichRuns({ wanted, onChange, hand }: { wanted: Wanted; onChange(next: Wanted): void; hand: RunsAtHand | undefined }) {
  const set = (patch: Partial<Wanted>) => onChange(wantedFrom({ ...wanted, ...patch }));
  const filtered = Object.keys(wanted).length > 0;
  return (
    <>
      <Heading aside={filtered ? <Act onClick={() => onChange({})}>any</Act> : undefined}>Which runs</Heading>
      <Written
        inputProps={{ 'data-search': '', 'aria-label': 'Search runs', maxLength: 120 }}
        placeholder="search titles, notes, pieces"
        value={wanted.search ?? ''}
        onChange={(e) => set({ search: e.target.value })}
        sx={{ width: '100%', mb: 0.6 }}
      />
      <Choice
        label="stage"
        value={wanted.stage ?? ''}
        choices={[ANY, ...TRIED.map((s) => [s.id, s.name] as const)]}
        onChange={(stage) => set({ stage })}
      />
      <Choice
        label="piece"
        value={wanted.asset ?? ''}
        choices={[ANY, ...(hand?.pieces ?? []).map((p) => [p.id, p.name] as const)]}
        onChange={(asset) => set({ asset })}
      />
      <Choice
        label="material"
        value={wanted.material ?? ''}
        choices={[ANY, ...(hand?.materials ?? []).map((m) => [m, m] as const)]}
        onChange={(material) => set({ material })}
      />
      <Choice
        label="part’s role"
        value={wanted.role ?? ''}
        choices={[ANY, ...(hand?.roles ?? []).map((r) => [r, ROLES[r as keyof typeof ROLES] ?? r] as const)]}
        onChange={(role) => set({ role })}
      />
      <Choice
        label="verdict"
        value={wanted.verdict ?? ''}
        choices={[ANY, ['kept', 'kept'], ['dropped', 'dropped'], ['open', 'none yet']]}
        onChange={(verdict) => set({ verdict })}
      />
      <NumberField
        label="longest side from"
        value={wanted.minMm ?? 0}
        min={0}
        max={LARGEST}
        digits={1}
        onCommit={(minMm) => set({ minMm: minMm || undefined })}
        width={84}
      />
      <NumberField
        label="to"
        value={wanted.maxMm ?? LARGEST}
        min={0}
        max={LARGEST}
        digits={1}
        onCommit={(maxMm) => set({ maxMm: maxMm < LARGEST ? maxMm : undefined })}
        width={84}
      />
      <Saved wanted={wanted} onChange={onChange} />
      <Box className="narrow" sx={{ fontSize: 12.5, mt: 1, display: 'flex', gap: 1.5 }}>
        <Link href={`/api/runs/export?${queryOf({ ...wanted, format: 'csv' })}`} download="logbook.csv">
          These as CSV
        </Link>
        <Link href={`/api/runs/export?${queryOf({ ...wanted, format: 'json' })}`} download="logbook.json">
          as JSON
        </Link>
      </Box>
    </>
  );
}

function Saved({ wanted, onChange }: { wanted: Wanted; onChange(next: Wanted): void }) {
  const { data: filters = {} } = useQuery({
    queryKey: ['filters'],
    queryFn: () => get<Record<string, Record<string, unknown>>>('/api/filters'),
  });
  const [name, setName] = useState('');
  const put = useAsk((next: Record<string, object>) => send('PUT', '/api/filters', { filters: next }), ['filters']);
  const names = Object.keys(filters).sort();
  const save = () => {
    const called = name.trim();
    if (!called) return;
    put.mutate({ ...filters, [called]: wanted });
    setName('');
  };
  return (
    <Box sx={{ mt: 1 }}>
      {names.map((n) => (
        <Box key={n} sx={{ display: 'flex', gap: 1, alignItems: 'baseline', minHeight: 24 }}>
          <Act onClick={() => onChange(wantedFrom(filters[n]))} sx={{ flex: 1, minWidth: 0, justifyContent: 'flex-start' }}>
            {n}
          </Act>
          <Act
            quiet
            aria-label={`Forget the filter ${n}`}
            onClick={() => put.mutate(Object.fromEntries(Object.entries(filters).filter(([k]) => k !== n)))}
          >
            forget
          </Act>
        </Box>
      ))}
      {Object.keys(wanted).length > 0 && (
        <Box sx={{ display: 'flex', gap: 1, mt: 0.4, alignItems: 'baseline' }}>
          <Written
            line
            placeholder="save these as …"
            value={name}
            inputProps={{ 'aria-label': 'Name of the filter', maxLength: 60 }}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => e.key === 'Enter' && save()}
            sx={{ flex: 1, fontSize: 12.5 }}
          />
          <Act disabled={!name.trim()} onClick={save}>
            Save
          </Act>
        </Box>
      )}
    </Box>
  );
}
