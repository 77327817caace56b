'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { memoryTable, TEXTURE_FORMATS, type TextureFormat } from '@wellmorph/core/brief/memory';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { deliveredMaps } from '@wellmorph/core/pipeline/delivered';
import { type AssetDocument, type Part, stepsOf } from '@wellmorph/core/pipeline/document';
import type { Level } from '@wellmorph/core/pipeline/levels';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { figure } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import type { FormView } from '@/session/kept';
import { NumberField } from '@/sheet/fields';
import { type FigureRow, FigureTable } from '@/sheet/figure-table';
import { Plain } from '@/sheet/plain';
import { Inner } from './fold';

/** Triangles and vertices by part, and by step within the chosen one; a part's share can be pinned. */
export function PartLedger({ document, form }: { document: AssetDocument; form: FormView }) {
  const session = useSession();
  const selected = useSheet((s) => s.selected.part);
  const shares = document.form.shares ?? {};
  const pinned = Object.keys(shares).length;
  const rows = form.ledger.parts.map((r) => ({ ...r, part: document.parts.find((p) => p.id === r.id), drawn: r.triangles * r.copies }));
  return (
    <Inner title="By part and step" about={pinned > 0 ? `${pinned} pinned` : `${rows.length} parts`}>
      <FigureTable
        label="triangles by part"
        columns={['part', 'triangles', '%', 'vertices']}
        rows={rows.flatMap((r): FigureRow[] => [
          {
            key: r.id,
            head: `${r.part?.name ?? ''}${r.copies > 1 ? ` × ${r.copies}` : ''}${shares[r.id] !== undefined ? ' · pinned' : ''}`,
            cells: [figure(r.drawn, 0), figure((100 * r.drawn) / Math.max(1, form.ledger.triangles), 0), figure(r.gpuVertices, 0)],
            chosen: selected === r.id,
            onClick: () => session.select({ part: r.id, step: null }),
          },
          ...(selected === r.id && r.part ? stepRows(r.part, form, r.copies) : []),
        ])}
      />
      {selected && rows.some((r) => r.id === selected && r.part?.shape.kind === 'recipe') && (
        <Share document={document} form={form} part={selected} />
      )}
    </Inner>
  );
}

/** What each step of a part adds, copies counted. */
const stepRows = (part: Part, form: FormView, copies: number): FigureRow[] =>
  stepsOf(part).flatMap((s) => {
    const made = form.steps.find((x) => x.step === s.id);
    if (!made) return [];
    return [
      { key: s.id, head: s.name, within: true, cells: [`${made.triangles > 0 ? '+' : ''}${figure(made.triangles * copies, 0)}`, '', ''] },
    ];
  });

function Share({ document, form, part }: { document: AssetDocument; form: FormView; part: string }) {
  const session = useSession();
  const share = document.form.shares?.[part];
  const row = form.ledger.parts.find((r) => r.id === part);
  const name = document.parts.find((p) => p.id === part)?.name ?? '';
  const present = (row?.triangles ?? 0) * (row?.copies ?? 0);
  if (share === undefined)
    return (
      <Button sx={{ fontSize: 12 }} onClick={() => session.dispatch({ type: 'form.share', part, triangles: Math.max(1, present) })}>
        Pin {figure(present, 0)} triangles to {name}
      </Button>
    );
  return (
    <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 0.6 }}>
      <Box sx={{ flex: 1 }}>
        <NumberField
          label={`${name} may take`}
          kind="whole"
          unit=""
          min={1}
          max={1e8}
          value={share}
          onCommit={(triangles) => session.dispatch({ type: 'form.share', part, triangles })}
        />
      </Box>
      <Button sx={{ fontSize: 12 }} onClick={() => session.dispatch({ type: 'form.share', part, triangles: null })}>
        Let go
      </Button>
    </Box>
  );
}

/** Triangles that bear nothing, with what taking them away frees. */
export function IdleTriangles({ findings }: { findings: readonly Finding[] }) {
  const session = useSession();
  const rows = findings.filter((f) => f.frees !== undefined && !f.waived).sort((a, b) => (b.frees ?? 0) - (a.frees ?? 0));
  if (rows.length === 0) return null;
  const names: Record<string, string> = { hidden: 'never seen', 'idle-loops': 'idle loops', flats: 'over-divided flats' };
  return (
    <Inner
      title="Idle triangles"
      about={`up to ${figure(
        rows.reduce((n, f) => n + (f.frees ?? 0), 0),
        0,
      )}`}
    >
      {rows.map((f) => (
        <Plain
          key={f.id}
          onClick={() => session.select({ finding: f.id, part: f.part })}
          sx={{ display: 'flex', width: '100%', fontSize: 12, py: 0.25 }}
        >
          <Box component="span" className="narrow" sx={{ flex: 1 }}>
            {f.partName}, {names[f.kind] ?? f.kind}
          </Box>
          <span className="mono">{figure(f.frees ?? 0, 0)}</span>
        </Plain>
      ))}
    </Inner>
  );
}

/** Leaner forms of the piece for smaller screen heights, each checked by its drawn outline. */
export function Levels({ document }: { document: AssetDocument }) {
  const session = useSession();
  const [made, setMade] = useState<{ name: string; levels: Level[] } | null>(null);
  const busy = useSheet((s) => s.job !== null);
  const name = nameOf(document, 'form');
  const fresh = made?.name === name ? made.levels : null;
  const make = async () => {
    await session.job('levels', async ({ document, report, cancel }) => {
      const ask = { document, meshes: await session.meshes(document, 'low') };
      setMade({ name: nameOf(document, 'form'), levels: await session.bench.pool.run('levels', ask, report, cancel) });
    });
  };
  return (
    <Inner
      title="Further levels"
      about={fresh ? `down to ${figure(fresh[fresh.length - 1].triangles, 0)} triangles` : 'for when it stands smaller'}
    >
      {fresh ? (
        <FigureTable
          label="further levels"
          columns={['screen height', 'triangles', 'outline off']}
          rows={fresh.map((l) => ({
            key: String(l.share),
            head: `${figure(100 * l.share, 1)} %`,
            cells: [figure(l.triangles, 0), `${figure(l.measuredPx, 2)} of ${figure(l.allowedPx, 2)} px`],
          }))}
        />
      ) : (
        <Box sx={{ fontSize: 12, color: 'text.secondary', lineHeight: 1.4, py: 0.4 }}>
          At a half, a quarter and an eighth of its height in the closest view, the outline may be as many pixels off as there; each level
          is simplified as far as its drawn outline allows, and keeps its layout. The hand-off can take them along.
        </Box>
      )}
      <Button sx={{ fontSize: 12 }} disabled={busy} onClick={() => void make()}>
        {fresh ? 'Make them again' : 'Make levels'}
      </Button>
    </Inner>
  );
}

/** Texture memory by format, for the size that is set and those beside it. */
export function MemoryTable({ document }: { document: AssetDocument }) {
  const { textureSize, textureSets, memoryMB } = document.brief.limits;
  const rows = memoryTable(textureSize, textureSets, deliveredMaps(document));
  const formats = Object.keys(TEXTURE_FORMATS) as TextureFormat[];
  return (
    <Inner title="Texture memory" about={`${textureSets} ${textureSets === 1 ? 'set' : 'sets'}, limit ${figure(memoryMB, 1)} MB`}>
      <FigureTable
        label="texture memory by format"
        columns={['size', ...formats.map((f) => TEXTURE_FORMATS[f].name)]}
        rows={rows.map((r) => ({
          key: String(r.size),
          head: `${figure(r.size, 0)} px`,
          cells: formats.map((f) => figure(r.mb[f], 1)),
          over: formats.map((f) => r.mb[f] > memoryMB),
          strong: r.size === textureSize,
        }))}
      />
    </Inner>
  );
}
