'use client';

import AddOutlined from '@mui/icons-material/AddOutlined';
import DeleteOutlineOutlined from '@mui/icons-material/DeleteOutlineOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { budgetOf, STEP_NAMES, type Step, type StepKind } from '@wellmorph/core/form/recipe';
import { type Part, ROLES } from '@wellmorph/core/pipeline/document';
import { chosenCount } from '@wellmorph/core/pipeline/form';
import { figure } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import { dispatch } from '@/sheet/document';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { select, useSheet } from '@/sheet/state';
import { giveMaterial, materialChoices } from '@/stages/surface/give';
import { StepFields, stepWords } from './step-fields';

/** Starting dimensions of a new step: a small cup, a straight rod, three copies (3 at 120° is common practice, no source). */
export function newStep(kind: StepKind): Step {
  const base = { id: newId(), enabled: true };
  if (kind === 'turned')
    return {
      ...base,
      kind,
      name: 'Turned profile',
      body: 'solid',
      edgeRadius: 0.8,
      rings: [],
      profile: {
        points: [
          { id: 'p0', r: 20, y: 0 },
          { id: 'p1', r: 20, y: 30 },
          { id: 'p2', r: 14, y: 40 },
        ],
        segments: [
          { id: 's0', name: 'wall', kind: 'line' },
          { id: 's1', name: 'shoulder', kind: 'line' },
        ],
      },
    };
  if (kind === 'bar')
    return {
      ...base,
      kind,
      name: 'Bar',
      radius: 2,
      edgeRadius: 0.5,
      path: [
        { id: 'a', x: 30, y: 0, z: 0 },
        { id: 'b', x: 30, y: 50, z: 0, bend: 10 },
        { id: 'c', x: 0, y: 50, z: 0 },
      ],
    };
  return { ...base, kind, name: 'Array', count: 3, x: 0, z: 0, startDegrees: 0 };
}

export function addPart(kind: StepKind): void {
  const document = useSheet.getState().document;
  const step = newStep(kind);
  const id = newId();
  const part: Part = {
    id,
    name: `Part ${(document?.parts.length ?? 0) + 1}`,
    role: 'body',
    material: null,
    move: [0, 0, 0],
    turnDegrees: [0, 0, 0],
    shape: { kind: 'recipe', steps: [step] },
    weight: 1,
    declaredOpen: false,
  };
  if (dispatch({ type: 'part.add', part })) select({ part: id, step: step.id });
}

export function PartList({ point, onPoint, onProfile }: { point: string | null; onPoint(id: string | null): void; onProfile(): void }) {
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const selected = useSheet((s) => s.selected);
  const [query, setQuery] = useState('');
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  if (!document) return null;
  const shown = document.parts.filter((p) =>
    `${p.name} ${p.shape.kind === 'recipe' ? p.shape.steps.map((s) => s.name).join(' ') : ''}`.toLowerCase().includes(query.toLowerCase()),
  );
  return (
    <Box>
      <Box sx={{ px: 1.8 }}>
        <Heading aside="low · high from one recipe">Parts</Heading>
        {document.parts.length > 5 && (
          <Box
            component="input"
            data-search
            aria-label="Search parts and steps"
            placeholder="search  /"
            value={query}
            onChange={(e: React.ChangeEvent<HTMLInputElement>) => setQuery(e.target.value)}
            onKeyDown={(e: React.KeyboardEvent) => e.key === 'Escape' && setQuery('')}
            sx={{
              width: '100%',
              font: 'inherit',
              fontSize: 12.5,
              border: 0,
              borderBottom: 1,
              borderColor: 'sheet.faint',
              bgcolor: 'transparent',
              color: 'text.primary',
              py: 0.4,
              outline: 'none',
              '&:focus': { borderColor: 'primary.main' },
            }}
          />
        )}
      </Box>
      {shown.map((part, i) => {
        const open = part.id === selected.part;
        const row = form?.ledger.parts.find((p) => p.id === part.id);
        return (
          <Box
            key={part.id}
            sx={{
              borderBottom: 1,
              borderColor: open ? 'primary.main' : 'sheet.faint',
              borderTop: open ? 1 : 0,
              borderTopColor: 'primary.main',
              bgcolor: open ? 'sheet.tint' : undefined,
            }}
          >
            <Box
              component="button"
              type="button"
              aria-expanded={open}
              onClick={() =>
                select({
                  part: open ? null : part.id,
                  step: open ? null : part.shape.kind === 'recipe' ? (part.shape.steps[0]?.id ?? null) : null,
                })
              }
              sx={{
                all: 'unset',
                boxSizing: 'border-box',
                cursor: 'pointer',
                width: '100%',
                display: 'grid',
                gridTemplateColumns: '26px 1fr auto',
                px: 1.8,
                py: 0.8,
                '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main', outlineOffset: -2 },
              }}
            >
              <Box className="narrow" sx={{ color: 'text.secondary' }}>
                {i + 1}
              </Box>
              <Box sx={{ minWidth: 0 }}>
                <Box sx={{ fontWeight: 600, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}>{part.name}</Box>
                <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
                  {part.shape.kind === 'recipe'
                    ? part.shape.steps.map(stepWords).join(' · ') || 'no steps yet'
                    : `imported${part.shape.placements.length > 1 ? ` · ${part.shape.placements.length} copies` : ''}`}
                </Box>
              </Box>
              <Box className="mono" sx={{ fontSize: 13 }}>
                {row ? figure(row.triangles * row.copies, 0) : '–'}
              </Box>
            </Box>
            {open && <OpenPart part={part} point={point} onPoint={onPoint} onProfile={onProfile} />}
          </Box>
        );
      })}
      {shown.length === 0 && (
        <Box sx={{ px: 1.8, py: 1.5, color: 'text.secondary' }}>{query ? 'No part or step is called that.' : 'No parts yet.'}</Box>
      )}
      <Box sx={{ px: 1.8, pt: 1.2 }}>
        <Button variant="outlined" startIcon={<AddOutlined />} onClick={(e) => setMenu(e.currentTarget)}>
          Add a part
        </Button>
        <Menu open={menu !== null} anchorEl={menu} onClose={() => setMenu(null)}>
          {(['turned', 'bar'] as const).map((k) => (
            <MenuItem
              key={k}
              onClick={() => {
                addPart(k);
                setMenu(null);
              }}
            >
              {STEP_NAMES[k]}
            </MenuItem>
          ))}
        </Menu>
      </Box>
    </Box>
  );
}

function OpenPart({
  part,
  point,
  onPoint,
  onProfile,
}: {
  part: Part;
  point: string | null;
  onPoint(id: string | null): void;
  onProfile(): void;
}) {
  const document = useSheet((s) => s.document);
  const selected = useSheet((s) => s.selected);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  if (!document) return null;
  const set = (patch: Extract<Parameters<typeof dispatch>[0], { type: 'part.set' }>['patch']) =>
    dispatch({ type: 'part.set', part: part.id, patch });
  const choices = materialChoices(document);
  const steps = part.shape.kind === 'recipe' ? part.shape.steps : [];
  return (
    <Box sx={{ px: 1.8, pb: 1.2 }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', minHeight: 30, gap: 1 }}>
        <Box component="label" htmlFor={`name-${part.id}`} className="narrow">
          Name
        </Box>
        <Box
          component="input"
          id={`name-${part.id}`}
          key={part.name}
          defaultValue={part.name}
          onBlur={(e: React.FocusEvent<HTMLInputElement>) =>
            e.target.value.trim() && e.target.value !== part.name && set({ name: e.target.value.trim() })
          }
          onKeyDown={(e: React.KeyboardEvent<HTMLInputElement>) => e.key === 'Enter' && e.currentTarget.blur()}
          sx={{
            font: 'inherit',
            fontSize: 13,
            width: 148,
            border: 1,
            borderColor: 'divider',
            borderRadius: 1,
            px: 0.8,
            py: '3px',
            bgcolor: 'background.paper',
            color: 'text.primary',
          }}
        />
      </Box>
      <Choice
        label="Role"
        value={part.role}
        choices={Object.entries(ROLES) as [Part['role'], string][]}
        onChange={(role) => set({ role })}
      />
      <Choice label="Material" value={part.material ?? ''} choices={choices} onChange={(value) => giveMaterial([part.id], value)} />
      {steps.map((s, i) => (
        <Box key={s.id} sx={{ mt: 1, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
            <Box
              component="button"
              type="button"
              aria-expanded={selected.step === s.id}
              onClick={() => select({ step: selected.step === s.id ? null : s.id })}
              sx={{
                all: 'unset',
                cursor: 'pointer',
                flex: 1,
                fontSize: 13,
                fontWeight: 600,
                opacity: s.enabled ? 1 : 0.5,
                '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
              }}
            >
              {s.name}{' '}
              <Box component="span" className="narrow" sx={{ fontWeight: 400, color: 'text.secondary', fontSize: 12 }}>
                {STEP_NAMES[s.kind]}
              </Box>
            </Box>
            <Box
              component="input"
              type="checkbox"
              aria-label={`${s.name} is on`}
              title={s.enabled ? 'Switch this step off' : 'Switch it on'}
              checked={s.enabled}
              onChange={() => dispatch({ type: 'step.set', part: part.id, step: { ...s, enabled: !s.enabled } })}
              sx={{ accentColor: (t) => (t.vars ?? t).palette.primary.main }}
            />
            {i > 0 && (
              <Button
                sx={{ minWidth: 0, px: 0.6, minHeight: 22 }}
                aria-label={`Move ${s.name} up`}
                onClick={() => dispatch({ type: 'step.move', part: part.id, step: s.id, by: -1 })}
              >
                ↑
              </Button>
            )}
            <IconButton
              size="small"
              aria-label={`Remove ${s.name}`}
              onClick={() => dispatch({ type: 'step.remove', part: part.id, step: s.id })}
            >
              <DeleteOutlineOutlined sx={{ fontSize: 16 }} />
            </IconButton>
          </Box>
          {selected.step === s.id && <StepFields part={part} step={s} point={point} onPoint={onPoint} onProfile={onProfile} />}
        </Box>
      ))}
      {part.shape.kind === 'recipe' && <Counts part={part} />}
      <Placement part={part} onSet={set} />
      <Box sx={{ display: 'flex', gap: 1, mt: 1.2 }}>
        {part.shape.kind === 'recipe' && (
          <Button variant="outlined" onClick={(e) => setMenu(e.currentTarget)}>
            Add a step
          </Button>
        )}
        <Button variant="outlined" onClick={() => dispatch({ type: 'part.remove', part: part.id })}>
          Remove the part
        </Button>
      </Box>
      <Menu open={menu !== null} anchorEl={menu} onClose={() => setMenu(null)}>
        {(Object.keys(STEP_NAMES) as StepKind[]).map((k) => (
          <MenuItem
            key={k}
            onClick={() => {
              const step = newStep(k);
              if (dispatch({ type: 'step.add', part: part.id, step })) select({ step: step.id });
              setMenu(null);
            }}
          >
            {STEP_NAMES[k]}
          </MenuItem>
        ))}
      </Menu>
    </Box>
  );
}

/** The counts left to the solver; typing one fixes it. */
function Counts({ part }: { part: Part }) {
  const document = useSheet((s) => s.document);
  if (!document || part.shape.kind !== 'recipe') return null;
  const { adaptive } = budgetOf(part.shape.steps);
  if (adaptive.length === 0) return null;
  const count = chosenCount(document);
  return (
    <Box sx={{ mt: 1, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
      {adaptive.map((a) => {
        const locked = document.form.locks[a.key] !== undefined;
        const n = Math.max(a.minimum, count(a));
        return (
          <Box key={a.key} sx={{ display: 'flex', alignItems: 'flex-start', gap: 0.6 }}>
            <Box sx={{ flex: 1 }}>
              <NumberField
                label={a.label}
                hint={`${figure(a.errorMm(n), 3)} mm off`}
                kind="whole"
                unit={locked ? 'fixed' : 'solved'}
                min={a.minimum}
                max={4096}
                value={n}
                width={92}
                onCommit={(v) => dispatch({ type: 'form.lock', key: a.key, label: a.label, count: v })}
              />
            </Box>
            {locked && (
              <Button
                sx={{ minWidth: 0, px: 0.8, minHeight: 28 }}
                title="Leave it to the solver"
                onClick={() => dispatch({ type: 'form.lock', key: a.key, label: a.label, count: null })}
              >
                free
              </Button>
            )}
          </Box>
        );
      })}
    </Box>
  );
}

function Placement({
  part,
  onSet,
}: {
  part: Part;
  onSet(patch: { move?: Part['move']; turnDegrees?: Part['turnDegrees']; declaredOpen?: boolean }): void;
}) {
  const [open, setOpen] = useState(false);
  const change = (of: 'move' | 'turnDegrees', k: number) => (v: number) =>
    onSet({ [of]: part[of].map((x, i) => (i === k ? v : x)) as unknown as Part['move'] });
  return (
    <Box sx={{ mt: 1, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
      <Box
        component="button"
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        sx={{
          all: 'unset',
          cursor: 'pointer',
          fontSize: 13,
          fontWeight: 600,
          '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
        }}
      >
        Placement{' '}
        <Box component="span" className="narrow" sx={{ fontWeight: 400, color: 'text.secondary', fontSize: 12 }}>
          {part.move.map((x) => figure(x, 1)).join(', ')} mm
        </Box>
      </Box>
      {open && (
        <>
          {(['x', 'y', 'z'] as const).map((axis, k) => (
            <NumberField key={axis} label={`Move along ${axis}`} value={part.move[k]} onCommit={change('move', k)} />
          ))}
          {(['x', 'y', 'z'] as const).map((axis, k) => (
            <NumberField
              key={axis}
              label={`Turn about ${axis}`}
              kind="number"
              unit="°"
              min={-360}
              max={360}
              value={part.turnDegrees[k]}
              onCommit={change('turnDegrees', k)}
            />
          ))}
          <Choice
            label="Open rims"
            value={part.declaredOpen ? 1 : 0}
            choices={[
              [0, 'a fault'],
              [1, 'meant'],
            ]}
            onChange={(v) => onSet({ declaredOpen: v === 1 })}
          />
        </>
      )}
    </Box>
  );
}
