'use client';

import AddOutlined from '@mui/icons-material/AddOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { evaluateDimensions } from '@wellmorph/core/form/dimensions';
import type { StepName } from '@wellmorph/core/form/steps/index';
import { type AssetDocument, originalOf, type Part, stepsOf } from '@wellmorph/core/pipeline/document';
import type { Lookup } from '@wellmorph/core/units/formula';
import { figure } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import { type Lengths, useLengths, useSession, useSheet } from '@/session/context';
import type { AssetSession } from '@/session/session';
import { Heading } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { LongList } from '@/sheet/long-list';
import { Plain, Written } from '@/sheet/plain';
import { SortableList, SortableRow } from '@/sheet/sortable';
import { DimensionPanel } from './dimensions';
import type { DrawingHand } from './drawings';
import { GroupPanel } from './groups';
import { OpenPart } from './part';
import { PhotoList } from './photos';
import { PieceDialog } from './pieces';
import { ReferencePanel } from './references';
import { RelationPanel } from './relations';
import { stepWords } from './step-fields';
import { MAKERS, newStep, StepMenu } from './step-menu';

export function addPart(session: AssetSession, kind: StepName): void {
  const { document } = session;
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
  if (session.dispatch({ type: 'part.add', part })) session.select({ part: id, step: step.id });
}

/** A part in a few words: its steps, or where it came from. */
function aboutPart(document: AssetDocument, part: Part, names: Lookup, bare: Lengths['bare']): string {
  const { shape } = part;
  if (shape.kind === 'recipe') return shape.steps.map((s) => stepWords(s, names, bare)).join(' · ') || 'no steps yet';
  if (shape.kind === 'copy') return `${shape.mirror ? 'mirrored copy' : 'copy'} of ${originalOf(document, part).name}`;
  const from = part.origin?.kind === 'piece' ? `from ${part.origin.piece}` : 'imported';
  return shape.placements.length > 1 ? `${from} · ${shape.placements.length} copies` : from;
}

export function PartList({
  onBring,
  photo,
  onPhoto,
  ...props
}: DrawingHand & { onBring(): void /** The photograph that is open. */; photo: string | null; onPhoto(photo: string | null): void }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const selected = useSheet((s) => s.selected);
  const [query, setQuery] = useState('');
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [bringing, setBringing] = useState(false);
  const { bare } = useLengths();
  if (!document) return null;
  const names = evaluateDimensions(document.dimensions).lookup;
  const shown = document.parts.filter((p) =>
    `${p.name} ${stepsOf(p)
      .map((s) => s.name)
      .join(' ')}`
      .toLowerCase()
      .includes(query.toLowerCase()),
  );
  return (
    <Box>
      <DimensionPanel />
      <ReferencePanel />
      <PhotoList chosen={photo} onChoose={onPhoto} />
      <RelationPanel document={document} />
      <GroupPanel document={document} />
      <Box sx={{ px: 1.8 }}>
        <Heading aside="low · high from one recipe">Parts</Heading>
        {document.parts.length > 5 && (
          <Written
            line
            fullWidth
            inputProps={{ 'data-search': '', 'aria-label': 'Search parts and steps' }}
            placeholder="search  /"
            value={query}
            onChange={(e) => setQuery(e.target.value)}
            onKeyDown={(e) => e.key === 'Escape' && setQuery('')}
            sx={{ fontSize: 12.5, py: 0.4 }}
          />
        )}
      </Box>
      <SortableList rows={document.parts} onMove={(part, by) => session.dispatch({ type: 'part.move', part, by })}>
        <LongList count={shown.length} estimate={52} keyOf={(i) => shown[i].id}>
          {(i) => {
            const part = shown[i];
            const open = part.id === selected.part;
            const row = form?.ledger.parts.find((p) => p.id === part.id);
            return (
              <SortableRow id={part.id} name={part.name}>
                {(grip) => (
                  <Box
                    sx={{
                      borderBottom: 1,
                      borderColor: open ? 'primary.main' : 'sheet.faint',
                      borderTop: open ? 1 : 0,
                      borderTopColor: 'primary.main',
                      bgcolor: open ? 'sheet.tint' : undefined,
                    }}
                  >
                    <Box sx={{ display: 'flex', alignItems: 'flex-start', pl: 0.4 }}>
                      <Box sx={{ pt: 0.7 }}>{grip}</Box>
                      <Plain
                        aria-expanded={open}
                        onClick={() =>
                          session.select({
                            part: open ? null : part.id,
                            step: open ? null : (stepsOf(part)[0]?.id ?? null),
                          })
                        }
                        sx={{
                          width: '100%',
                          display: 'grid',
                          gridTemplateColumns: '22px 1fr auto',
                          alignItems: 'start',
                          pl: 0.4,
                          pr: 1.8,
                          py: 0.8,
                          '&:focus-visible': { outlineOffset: -2 },
                        }}
                      >
                        <Box className="narrow" sx={{ color: 'text.secondary' }}>
                          {document.parts.indexOf(part) + 1}
                        </Box>
                        <Box sx={{ minWidth: 0 }}>
                          <Box sx={{ fontWeight: 600, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}>
                            {part.name}
                          </Box>
                          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
                            {aboutPart(document, part, names, bare)}
                          </Box>
                        </Box>
                        <Box className="mono" sx={{ fontSize: 13 }}>
                          {row ? figure(row.triangles * row.copies, 0) : part.aid ? 'aid' : '–'}
                        </Box>
                      </Plain>
                    </Box>
                    {open && <OpenPart part={part} {...props} />}
                  </Box>
                )}
              </SortableRow>
            );
          }}
        </LongList>
      </SortableList>
      {shown.length === 0 && (
        <Box sx={{ px: 1.8, py: 1.5, color: 'text.secondary' }}>{query ? 'No part or step is called that.' : 'No parts yet.'}</Box>
      )}
      <Box sx={{ px: 1.8, pt: 1.2 }}>
        <Button variant="outlined" startIcon={<AddOutlined />} onClick={(e) => setMenu(e.currentTarget)}>
          Add a part
        </Button>
        <Box sx={{ display: 'flex', alignItems: 'center', mt: 0.8 }}>
          <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5, mr: 0.5 }}>
            Bring in
          </Box>
          <Button variant="text" aria-label="Bring in a file" onClick={onBring}>
            a file
          </Button>
          <Button variant="text" aria-label="Bring in a piece" onClick={() => setBringing(true)}>
            a piece
          </Button>
        </Box>
        {bringing && <PieceDialog onClose={() => setBringing(false)} />}
        <StepMenu
          anchor={menu}
          kinds={MAKERS}
          onPick={(k) => {
            addPart(session, k);
            setMenu(null);
          }}
          onClose={() => setMenu(null)}
        />
      </Box>
    </Box>
  );
}
