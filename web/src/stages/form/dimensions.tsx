'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { type Dimension, evaluateDimensions, usesOf } from '@wellmorph/core/form/dimensions';
import { dimensionsOf, EVERYDAY_SIZES } from '@wellmorph/core/form/sizes';
import { stepsOf } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { Heading } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { leaveOnEnter, Plain, Written } from '@/sheet/plain';
import { Fold } from './fold';

/** Named figures: a name, a formula, what it comes to. Steps and other dimensions refer to them. */
export function DimensionPanel() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const [open, setOpen] = useState(false);
  const [sizes, setSizes] = useState(false);
  const values = useMemo(() => evaluateDimensions(document?.dimensions ?? []).values, [document?.dimensions]);
  if (!document) return null;
  const { dimensions } = document;
  const steps = document.parts.flatMap(stepsOf);
  const wrong = values.filter((v) => v.wrong).length;
  const add = () => {
    let n = dimensions.length + 1;
    while (dimensions.some((d) => d.name === `size_${n}`)) n++;
    session.dispatch({ type: 'dimension.set', dimension: { id: newId(), name: `size_${n}`, formula: '10', kind: 'length' } });
    setOpen(true);
  };
  const remove = (d: Dimension) => {
    const uses = usesOf(d.name, dimensions, steps);
    if (uses.length > 0) session.notify(`“${d.name}” is used by ${uses.slice(0, 3).join(', ')}; give those another figure first.`, 'error');
    else session.dispatch({ type: 'dimension.remove', dimension: d.id });
  };
  return (
    <>
      <Fold
        title="Dimensions"
        about={wrong > 0 ? `${wrong} without a value` : dimensions.length === 0 ? 'none' : `${dimensions.length} named`}
        wrong={wrong > 0}
        open={open}
        onOpen={setOpen}
        actions={
          <>
            <Button sx={{ minWidth: 0, px: 0.8, minHeight: 24 }} onClick={add} aria-label="Name a dimension">
              + name
            </Button>
            <Button sx={{ minWidth: 0, px: 0.8, minHeight: 24 }} onClick={() => setSizes(true)} aria-label="Pick an everyday size">
              sizes
            </Button>
          </>
        }
      >
        {dimensions.map((d, i) => (
          <Row key={d.id} d={d} value={values[i].value} wrong={values[i].wrong} onRemove={() => remove(d)} />
        ))}
        {dimensions.length === 0 && (
          <Box sx={{ fontSize: 12.5, color: 'text.secondary', lineHeight: 1.45, pt: 0.5 }}>
            Name what several steps share (edge_radius = 1.2, tray = opening - 2*gap), then type the name into any field.
          </Box>
        )}
      </Fold>
      <Sizes
        open={sizes}
        onClose={() => setSizes(false)}
        onPick={(list) => {
          for (const dimension of list) session.dispatch({ type: 'dimension.set', dimension });
          setSizes(false);
          setOpen(true);
        }}
        taken={new Set(dimensions.map((d) => d.name))}
      />
    </>
  );
}

function Row({ d, value, wrong, onRemove }: { d: Dimension; value?: number; wrong?: string; onRemove(): void }) {
  const session = useSession();
  const put = (patch: Partial<Dimension>) => session.dispatch({ type: 'dimension.set', dimension: { ...d, ...patch } });
  return (
    <Box sx={{ py: 0.3 }}>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 58px 20px', gap: 0.5, alignItems: 'center' }}>
        <Written
          key={`n${d.name}`}
          inputProps={{ 'aria-label': `Name of ${d.name}`, maxLength: 60 }}
          defaultValue={d.name}
          onKeyDown={leaveOnEnter}
          onBlur={(e) => {
            const name = e.target.value.trim();
            if (name !== d.name && !put({ name })) e.target.value = d.name;
          }}
        />
        <Written
          key={`f${d.formula}`}
          wrong={wrong !== undefined}
          inputProps={{ 'aria-label': `Formula of ${d.name}`, maxLength: 200, className: 'mono' }}
          defaultValue={d.formula}
          onKeyDown={leaveOnEnter}
          onBlur={(e) => {
            const formula = e.target.value.trim();
            if (formula && formula !== d.formula) put({ formula });
            else if (!formula) e.target.value = d.formula;
          }}
        />
        <Plain
          className="mono"
          title={d.kind === 'length' ? 'A length; click for a plain number' : 'A plain number; click for a length'}
          aria-label={`${d.name} is ${d.kind === 'length' ? 'a length' : 'a plain number'}`}
          onClick={() => put({ kind: d.kind === 'length' ? 'number' : 'length' })}
          sx={{ justifyContent: 'flex-end', fontSize: 12, whiteSpace: 'nowrap', color: 'text.secondary' }}
        >
          {value === undefined ? '–' : figure(value)}
          {d.kind === 'length' ? ' mm' : ''}
        </Plain>
        <Button sx={{ minWidth: 0, px: 0.4, minHeight: 22 }} aria-label={`Remove ${d.name}`} onClick={onRemove}>
          ×
        </Button>
      </Box>
      {wrong && (
        <Box role="alert" sx={{ color: 'error.main', fontSize: 12 }}>
          {wrong}
        </Box>
      )}
      {d.source && (
        <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 11.5 }}>
          {d.source}
        </Box>
      )}
    </Box>
  );
}

/** Everyday sizes, by group, each with its source; picking one names its figures. */
function Sizes({
  open,
  onClose,
  onPick,
  taken,
}: {
  open: boolean;
  onClose(): void;
  onPick(list: Dimension[]): void;
  taken: ReadonlySet<string>;
}) {
  const [query, setQuery] = useState('');
  const shown = EVERYDAY_SIZES.filter((s) => `${s.group} ${s.name}`.toLowerCase().includes(query.toLowerCase()));
  const groups = [...new Set(shown.map((s) => s.group))];
  return (
    <Dialog open={open} onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ pb: 0.5 }}>Everyday sizes</DialogTitle>
      <DialogContent>
        <Box sx={{ color: 'text.secondary', fontSize: 13, mb: 1 }}>
          To start from. Figures from memory or trade practice say so: measure the real thing before relying on them.
        </Box>
        <Written
          fullWidth
          inputProps={{ 'aria-label': 'Search sizes' }}
          placeholder="A4, M6, pipe …"
          value={query}
          onChange={(e) => setQuery(e.target.value)}
          sx={{ mb: 1 }}
        />
        {groups.map((g) => (
          <Box key={g} sx={{ mb: 1.2 }}>
            <Heading aside={shown.find((s) => s.group === g)?.source}>{g}</Heading>
            <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.6 }}>
              {shown
                .filter((s) => s.group === g)
                .map((s) => {
                  const list = dimensionsOf(s, newId);
                  const has = list.every((d) => taken.has(d.name));
                  return (
                    <Button key={s.name} variant="outlined" disabled={has} onClick={() => onPick(list.filter((d) => !taken.has(d.name)))}>
                      {s.name}
                      <Box component="span" className="mono" sx={{ ml: 0.8, fontSize: 11.5, color: 'text.secondary' }}>
                        {Object.values(s.figures)
                          .map((x) => figure(x))
                          .join(' · ')}
                      </Box>
                    </Button>
                  );
                })}
            </Box>
          </Box>
        ))}
        {groups.length === 0 && <Box sx={{ color: 'text.secondary' }}>No size is called that.</Box>}
      </DialogContent>
    </Dialog>
  );
}
