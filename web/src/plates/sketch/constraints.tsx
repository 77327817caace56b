'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { featureWords } from '@wellmorph/core/form/sketch/begin';
import { CONSTRAINTS, type Constraint, type Sketch, type SketchFeature } from '@wellmorph/core/form/sketch/sketch';
import { clashWords, constraintWords, solveSketch } from '@wellmorph/core/form/sketch/solve';
import type { Lookup } from '@wellmorph/core/units/formula';
import { useMemo } from 'react';
import { useLengths } from '@/session/context';
import { Heading, NumberField } from '@/sheet/fields';
import { StatusMark } from '@/sheet/marks';
import { NameField } from '@/sheet/name-field';
import { Plain } from '@/sheet/plain';

/** Everything that was said of a sketch, with its figures; what contradicts or repeats itself says so. */
export function ConstraintList({
  sketch,
  following,
  names,
  chosen,
  onChoose,
  onFigure,
  onRemove,
  onName,
  features,
  children,
}: {
  sketch: Sketch;
  following: Readonly<Record<string, string>>;
  names?: Lookup;
  chosen: readonly string[];
  onChoose(ids: readonly string[]): void;
  onFigure(constraint: Constraint, value: number, formula: string | null): void;
  onRemove(constraint: string): void;
  onName(curve: string, name: string): void;
  /** The form of a kept feature's figures. */
  features(f: SketchFeature): React.ReactNode;
  /** What stands below the list. */
  children?: React.ReactNode;
}) {
  const { say } = useLengths();
  const clashes = useMemo(() => clashWords(sketch, solveSketch(sketch)), [sketch]);
  const curve = sketch.curves.find((c) => chosen.includes(c.id) && c.id !== 'axis');
  return (
    <Box sx={{ position: 'absolute', inset: 0, overflowY: 'auto', px: 1.6, py: 1.2 }}>
      {curve && (
        <>
          <Heading aside={curve.kind}>Chosen</Heading>
          <Box sx={{ mb: 1 }}>
            <NameField
              label="Called"
              id={`curve-${curve.id}`}
              value={curve.name}
              most={60}
              width={120}
              onName={(name) => onName(curve.id, name)}
            />
          </Box>
        </>
      )}
      {sketch.features && sketch.features.length > 0 && (
        <Box sx={{ mb: 1 }}>
          <Heading aside="one after the other">Made of it</Heading>
          {sketch.features.map((f) => (
            <Box
              key={f.id}
              sx={{ borderBottom: 1, borderColor: 'sheet.faint', bgcolor: chosen.includes(f.id) ? 'sheet.tint' : undefined, px: 0.4 }}
            >
              <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.6 }}>
                <Plain onClick={() => onChoose([f.id])} className="narrow" sx={{ flex: 1, fontSize: 13, py: 0.5 }}>
                  {featureWords(sketch, f)}
                </Plain>
                <Button
                  sx={{ minWidth: 0, px: 0.6, minHeight: 22 }}
                  aria-label={`Remove ${featureWords(sketch, f).toLowerCase()}`}
                  onClick={() => onRemove(f.id)}
                >
                  ×
                </Button>
              </Box>
              {features(f)}
            </Box>
          ))}
        </Box>
      )}
      <Heading aside={`${sketch.constraints.length} said`}>Constraints</Heading>
      {sketch.constraints.length === 0 && (
        <Box sx={{ color: 'text.secondary', fontSize: 13, lineHeight: 1.5 }}>
          Choose a line, a circle or two things (with Shift): what can be said of them appears above the drawing.
        </Box>
      )}
      {sketch.constraints.map((k) => {
        const clash = clashes.find((c) => c.constraint === k.id);
        const figured = k.mm !== undefined || k.degrees !== undefined;
        return (
          <Box
            key={k.id}
            sx={{ borderBottom: 1, borderColor: 'sheet.faint', bgcolor: chosen.includes(k.id) ? 'sheet.tint' : undefined, px: 0.4 }}
          >
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.6 }}>
              {clash && <StatusMark status={clash.conflict ? 'over' : 'near'} size={13} />}
              <Box sx={{ flex: 1, minWidth: 0 }}>
                {figured ? (
                  <NumberField
                    label={`${CONSTRAINTS[k.kind].name}, ${say(constraintWords(sketch, k)).split(', ').slice(1).join(', ')}`}
                    kind={k.kind === 'angle' ? 'number' : 'length'}
                    unit={k.kind === 'angle' ? '°' : undefined}
                    min={k.kind === 'angle' ? -360 : k.kind === 'across' || k.kind === 'upward' ? -1e5 : 0}
                    max={k.kind === 'angle' ? 360 : 1e5}
                    width={84}
                    value={k.mm ?? k.degrees ?? 0}
                    formula={following[k.id]}
                    names={names}
                    onCommit={(v, formula) => onFigure(k, v, formula)}
                  />
                ) : (
                  <Plain onClick={() => onChoose([k.id])} className="narrow" sx={{ fontSize: 13, py: 0.5 }}>
                    {say(constraintWords(sketch, k))}
                  </Plain>
                )}
              </Box>
              <Button
                sx={{ minWidth: 0, px: 0.6, minHeight: 22 }}
                aria-label={`Remove ${say(constraintWords(sketch, k))}`}
                onClick={() => onRemove(k.id)}
              >
                ×
              </Button>
            </Box>
            {clash && (
              <Box sx={{ fontSize: 12, color: clash.conflict ? 'error.main' : 'text.secondary', pb: 0.5 }}>{say(clash.message)}</Box>
            )}
          </Box>
        );
      })}
      {children}
    </Box>
  );
}
