('use client');

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { valuesOf } from '@wellmorph/core/form/fields';
import { type Region, RULE_FIELDS, type Rule } from '@wellmorph/core/form/regions';
import type { Reach } from '@wellmorph/core/form/select';
import { type Part, stepsOf } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { Choice, NumberField } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { leaveOnEnter, Written } from '@/sheet/plain';
import { DensityField, GrainChoice } from '../unwrap/density-grain';
import { FieldForm, withValue } from './field-form';
import { Inner } from './fold';
import { setPicking, stopPicking, usePicking } from './picking';
import { WholeLine } from './picks';

const REACHES: [Reach, string][] = [
  ['face', 'face'],
  ['round', 'loop'],
  ['along', 'across'],
  ['connected', 'joined'],
  ['spread', 'spread'],
];
const FRESH: Record<Exclude<Rule['kind'], 'picked' | 'angle'>, (part: Part) => Rule> = {
  facing: () => ({ kind: 'facing', x: 0, y: 1, z: 0, degrees: 30 }),
  named: () => ({ kind: 'named', name: 'face 1' }),
  step: (part) => ({ kind: 'step', step: stepsOf(part)[0]?.id ?? '?' }),
  side: () => ({ kind: 'side', axis: 'y', way: 'above', beyond: 0 }),
  inside: () => ({ kind: 'inside' }),
  alternate: () => ({ kind: 'alternate', pattern: 'columns' }),
};

/** A part's named sets of faces and its picked seams. They are kept as places on its surfaces, not as numbers of faces. */
export function RegionPanel({ part }: { part: Part }) {
  const session = useSession();
  const picking = usePicking();
  const marks = useSheet((s) => s.form?.marks.find((m) => m.part === part.id));
  useEffect(() => () => stopPicking(session), [session, part.id]);
  const regions = part.regions ?? [];
  const seams = part.seams ?? [];
  const add = () => {
    const region: Region = { id: newId(), name: `Region ${regions.length + 1}`, rules: [], weight: 1 };
    if (session.dispatch({ type: 'region.set', part: part.id, region }))
      setPicking(session, { part: part.id, what: region.id, reach: 'face', remove: false });
  };
  const isSeams = picking.what === 'seam' && picking.part === part.id;
  return (
    <Inner title="Regions and seams" about={`${regions.length} · ${seams.length}`}>
      {regions.map((r) => (
        <RegionRow key={r.id} part={part} region={r} found={marks?.regions.find((m) => m.id === r.id)} />
      ))}
      <Box sx={{ display: 'flex', gap: 0.8, mt: 0.6, flexWrap: 'wrap' }}>
        <Button variant="outlined" onClick={add}>
          Add a region
        </Button>
        <Button
          variant={isSeams ? 'contained' : 'outlined'}
          aria-pressed={isSeams}
          onClick={() => (isSeams ? stopPicking(session) : setPicking(session, { part: part.id, what: 'seam' }))}
        >
          {isSeams ? 'Done picking seams' : 'Pick seams'}
        </Button>
      </Box>
      {isSeams && (
        <Box sx={{ fontSize: 12.5, color: 'text.secondary', mt: 0.6 }}>
          Click an edge of the piece; a second click takes it back.
          <WholeLine />
        </Box>
      )}
      {seams.length > 0 && (
        <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', fontSize: 12.5 }}>
          <span>
            {seams.length} {seams.length === 1 ? 'seam' : 'seams'} picked
          </span>
          <Button onClick={() => session.dispatch({ type: 'seams.set', part: part.id, seams: [] })}>Take all back</Button>
        </Box>
      )}
    </Inner>
  );
}

function RegionRow({ part, region, found }: { part: Part; region: Region; found?: { faces: number[]; area: number; lost: string[] } }) {
  const session = useSession();
  const picking = usePicking();
  const [rules, setRules] = useState(false);
  const active = picking.what === region.id && picking.part === part.id;
  const put = (patch: Partial<Region>) => session.dispatch({ type: 'region.set', part: part.id, region: { ...region, ...patch } });
  const steps = stepsOf(part).map((s) => [s.id, s.name] as const);
  return (
    <Box sx={{ borderTop: 1, borderColor: 'sheet.line', mt: 0.6, pt: 0.4 }} data-region={region.id}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Written
          line
          inputProps={{ 'aria-label': `Name of ${region.name}`, maxLength: 60 }}
          key={region.name}
          defaultValue={region.name}
          onBlur={(e) => e.target.value.trim() && e.target.value !== region.name && put({ name: e.target.value.trim() })}
          onKeyDown={leaveOnEnter}
          sx={{ flex: 1, minWidth: 0, fontWeight: 600, borderColor: 'transparent' }}
        />
        <Box
          className="mono"
          sx={{ fontSize: 12, color: found && found.lost.length > 0 ? 'error.main' : 'text.secondary', whiteSpace: 'nowrap' }}
        >
          {found ? `${found.faces.length} faces · ${figure(found.area / 100, 1)} cm²` : '–'}
        </Box>
        <Button
          sx={{ minWidth: 0, px: 0.6, minHeight: 22 }}
          aria-label={`Remove ${region.name}`}
          onClick={() => session.dispatch({ type: 'region.remove', part: part.id, region: region.id })}
        >
          ×
        </Button>
      </Box>
      <Box sx={{ display: 'flex', gap: 0.6, flexWrap: 'wrap' }}>
        <Button
          variant={active ? 'contained' : 'outlined'}
          aria-pressed={active}
          onClick={() =>
            active ? stopPicking(session) : setPicking(session, { part: part.id, what: region.id, reach: 'face', remove: false })
          }
        >
          {active ? 'Done picking' : 'Pick faces'}
        </Button>
        <Button variant="outlined" aria-expanded={rules} onClick={() => setRules(!rules)}>
          Rules, {region.rules.length}
        </Button>
      </Box>
      {active && (
        <Box sx={{ mt: 0.6 }}>
          <ToggleButtonGroup
            value={picking.reach}
            onChange={(_, v: Reach | null) => v && setPicking(session, { reach: v })}
            aria-label="what a click takes"
            size="small"
            sx={{ flexWrap: 'wrap', '& .MuiToggleButton-root': { px: 0.9 } }}
          >
            {REACHES.map(([k, words]) => (
              <ToggleButton key={k} value={k}>
                {words}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          {picking.reach === 'spread' && (
            <NumberField
              label="Up to edges of"
              kind="number"
              unit="°"
              min={0}
              max={180}
              value={picking.degrees}
              onCommit={(degrees) => setPicking(session, { degrees })}
            />
          )}
          <Choice
            label="A click"
            value={picking.remove ? 1 : 0}
            choices={[
              [0, 'adds'],
              [1, 'takes away'],
            ]}
            onChange={(v) => setPicking(session, { remove: v === 1 })}
          />
        </Box>
      )}
      {rules && (
        <>
          {region.rules.map((r, i) => {
            const setRule = (next: Region['rules'][number]) => put({ rules: region.rules.map((x, k) => (k === i ? next : x)) });
            return (
              <Box key={r.id} sx={{ pl: 1, borderLeft: 2, borderColor: 'sheet.line', mt: 0.5 }}>
                <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
                  <Box sx={{ flex: 1 }}>
                    <Choice
                      label={RULE_FIELDS[r.rule.kind].name}
                      value={r.how}
                      choices={[
                        ['add', 'add'],
                        ['keep', 'keep only'],
                        ['remove', 'take away'],
                      ]}
                      onChange={(how) => setRule({ ...r, how })}
                    />
                  </Box>
                  <Button
                    sx={{ minWidth: 0, px: 0.6, minHeight: 22 }}
                    aria-label={`Remove rule ${i + 1}`}
                    onClick={() => put({ rules: region.rules.filter((_, k) => k !== i) })}
                  >
                    ×
                  </Button>
                </Box>
                <FieldForm
                  fields={RULE_FIELDS[r.rule.kind].fields}
                  value={valuesOf(r.rule)}
                  named={{ step: steps }}
                  onSet={(path, value) => setRule({ ...r, rule: withValue(r.rule, path, value) })}
                />
              </Box>
            );
          })}
          <Choice
            label="Add a rule"
            value={'' as '' | keyof typeof FRESH}
            choices={[['', 'choose …'], ...(Object.keys(FRESH) as (keyof typeof FRESH)[]).map((k) => [k, RULE_FIELDS[k].name] as const)]}
            onChange={(kind) =>
              kind &&
              put({
                rules: [...region.rules, { id: newId(), how: region.rules.length === 0 ? 'add' : 'keep', rule: FRESH[kind](part) }],
              })
            }
          />
          <NumberField
            label="Texel weight"
            hint="its border is a seam unless 1"
            kind="number"
            unit="×"
            min={0.05}
            max={20}
            value={region.weight}
            onCommit={(weight) => put({ weight })}
          />
          <DensityField label="Density" free="as its weight says" value={region.pxPerCm} onCommit={(pxPerCm) => put({ pxPerCm })} />
          <GrainChoice label="Grain" none="as its part’s" value={region.grain} onChange={(grain) => put({ grain })} />
        </>
      )}
    </Box>
  );
}
