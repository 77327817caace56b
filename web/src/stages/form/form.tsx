'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect, useMemo, useState } from 'react';
import { Piece, PlateFoot, PlateTop, PlateWords } from '@/plates/plate';
import { ProfileEditor } from '@/plates/profile';
import { Columns } from '@/sheet/columns';
import { dispatch } from '@/sheet/document';
import { Findings } from '@/sheet/findings';
import { JobBar } from '@/sheet/job-bar';
import { useMaterials } from '@/sheet/materials';
import { select, useSheet } from '@/sheet/state';
import { showHigh } from '@/stages/form/run';
import { BudgetPanel } from './budget';
import { addPart, PartList } from './parts';

type What = 'low' | 'high' | 'both';
const pickPart = (part: string) => select({ part, step: null });

export function FormStage() {
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const high = useSheet((s) => s.high);
  const selected = useSheet((s) => s.selected);
  const materialOf = useMaterials();
  const [what, setWhat] = useState<What>('low');
  const [edges, setEdges] = useState(true);
  const [profile, setProfile] = useState(false);
  const [point, setPoint] = useState<string | null>(null);
  useEffect(() => {
    if (what !== 'low') void showHigh();
  }, [what, document]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key.toLowerCase() === 'e' && !e.ctrlKey && !(e.target instanceof HTMLInputElement) && !(e.target instanceof HTMLSelectElement))
        setEdges((x) => !x);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const part = document?.parts.find((p) => p.id === selected.part);
  const step = part?.shape.kind === 'recipe' ? part.shape.steps.find((s) => s.id === selected.step) : undefined;
  const turned = step?.kind === 'turned' ? step : null;
  useEffect(() => setPoint(null), [turned?.id]);
  const marks = useMarks(form?.findings ?? [], selected.finding);
  if (!document) return null;
  const editing = profile && turned && part;
  const empty = document.parts.length === 0;
  return (
    <Columns
      controls={<PartList point={point} onPoint={setPoint} onProfile={() => setProfile(true)} />}
      plate={
        <>
          <PlateTop>
            {turned && (
              <ToggleButtonGroup
                value={profile ? 'profile' : 'piece'}
                onChange={(_, v: string | null) => v && setProfile(v === 'profile')}
                aria-label="what the plate shows"
              >
                <ToggleButton value="piece">Piece</ToggleButton>
                <ToggleButton value="profile">Profile</ToggleButton>
              </ToggleButtonGroup>
            )}
            {!editing && !empty && (
              <>
                <ToggleButtonGroup value={what} onChange={(_, v: What | null) => v && setWhat(v)} aria-label="which mesh">
                  <ToggleButton value="low">Low</ToggleButton>
                  <ToggleButton value="high">High</ToggleButton>
                  <ToggleButton value="both">Side by side</ToggleButton>
                </ToggleButtonGroup>
                <ToggleButtonGroup
                  value={edges ? 'edges' : 'shaded'}
                  onChange={(_, v: string | null) => v && setEdges(v === 'edges')}
                  aria-label="how it is drawn"
                >
                  <ToggleButton value="shaded">Shaded</ToggleButton>
                  <ToggleButton value="edges">Edges</ToggleButton>
                </ToggleButtonGroup>
              </>
            )}
          </PlateTop>
          {editing ? (
            <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateColumns: '3fr 2fr' }}>
              <Box sx={{ position: 'relative', borderRight: 1, borderColor: 'divider' }}>
                <ProfileEditor
                  step={turned}
                  point={point}
                  onPoint={setPoint}
                  onChange={(s) => dispatch({ type: 'step.set', part: part.id, step: s })}
                />
              </Box>
              <Box sx={{ position: 'relative' }}>
                {form && <Piece gpu={form.gpu.filter((g) => g.id === part.id)} materialOf={materialOf} edges={edges} />}
              </Box>
            </Box>
          ) : empty ? (
            <PlateWords
              action={
                <Button variant="contained" onClick={() => addPart('turned')}>
                  Start with a turned part
                </Button>
              }
            >
              Nothing is formed yet. A piece is made of parts, and a part of dimensioned steps: a turned profile, a bar along a path, an
              array round an axis.
            </PlateWords>
          ) : what === 'low' ? (
            form && form.gpu.length > 0 ? (
              <Piece
                gpu={form.gpu}
                materialOf={materialOf}
                edges={edges}
                selectedPart={selected.part}
                marks={marks}
                dimension
                onPick={pickPart}
              />
            ) : (
              <PlateWords>{form ? 'No step makes a surface yet.' : 'Forming the piece …'}</PlateWords>
            )
          ) : !high ? (
            <PlateWords>Forming the high mesh …</PlateWords>
          ) : high.gpu.length === 0 ? (
            <PlateWords>There is no high mesh yet. Bring one in the Bake stage, or give a recipe rounded edges.</PlateWords>
          ) : what === 'high' ? (
            <Piece gpu={high.gpu} materialOf={materialOf} edges={edges} />
          ) : (
            <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateColumns: '1fr 1fr' }}>
              <Box sx={{ position: 'relative', borderRight: 1, borderColor: 'divider' }}>
                {form && <Piece gpu={form.gpu} materialOf={materialOf} edges={edges} />}
              </Box>
              <Box sx={{ position: 'relative' }}>
                <Piece gpu={high.gpu} materialOf={materialOf} />
              </Box>
            </Box>
          )}
          {!empty && (
            <PlateFoot>
              <span>
                {editing
                  ? `${turned.profile.points.length} corners, ${turned.profile.segments.length} segments`
                  : what !== 'low' && high
                    ? `high: ${figure(high.triangles, 0)} triangles`
                    : form
                      ? `${figure(form.ledger.gpuVertices, 0)} vertices on the card · ${form.ledger.drawCalls} draws`
                      : ''}
              </span>
              <span>
                {editing
                  ? 'drag a corner · click a line to add one · Delete removes · wheel: nearer'
                  : 'turn: drag · slide: right-drag · nearer: wheel · whole piece: Home'}
              </span>
            </PlateFoot>
          )}
          <JobBar />
        </>
      }
      aside={
        <>
          <BudgetPanel />
          <Findings findings={form?.findings ?? []} />
        </>
      }
    />
  );
}

/** The places of the chosen finding, steady between renders so that the view flies only once. */
export function useMarks(findings: readonly Finding[], chosen: string | null) {
  return useMemo(() => {
    const f = findings.find((x) => x.id === chosen);
    return f && f.where.length > 0 ? { part: f.kind === 'coincident' ? null : f.part, points: f.where } : undefined;
  }, [findings, chosen]);
}
