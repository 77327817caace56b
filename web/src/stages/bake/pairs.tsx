'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type AssetDocument, deliveredParts, type Part } from '@wellmorph/core/pipeline/document';
import type { MeasuredPair } from '@wellmorph/core/pipeline/pair-lies';
import { figure, LENGTH_UNITS } from '@wellmorph/core/units/lengths';
import { memo, useState } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import { Choice, Heading } from '@/sheet/fields';
import { useFiles } from '@/sheet/file-input';
import { MODEL_FILES } from '@/sheet/model-files';
import { addHighFile, choosePair } from '@/stages/bake/run';

const k = (n: number) => (n >= 10_000 ? `${figure(n / 1000, 0)} k` : figure(n, 0));

/** Which high mesh each part is baked from; imported pairs can be changed by hand. */
export const Pairs = memo(function Pairs({ measured }: { measured: readonly MeasuredPair[] | null }) {
  const session = useSession();
  const parts = useSheet((s) => s.document?.parts);
  const highParts = useSheet((s) => s.document?.highParts);
  const form = useSheet((s) => s.form);
  const bake = useSheet((s) => s.bake);
  const [unit, setUnit] = useState<string>('mm');
  const files = useFiles({
    label: 'High mesh file',
    accept: MODEL_FILES,
    several: true,
    onFiles: (list) => void addHighFile(session, list, unit, ''),
  });
  const { length } = useLengths();
  if (!parts || !highParts) return null;
  const document = { parts, highParts };
  const used = new Set(document.parts.flatMap((p) => bakedFrom(document, p)));
  const left = document.highParts.filter((h) => !used.has(h.blob));
  const paired = deliveredParts(document).filter((p) => p.high || p.shape.kind === 'recipe').length;
  return (
    <Box {...files.zone} sx={{ outline: files.over ? '2px dashed' : 0, outlineColor: 'primary.main', outlineOffset: -2 }}>
      <Box sx={{ px: 1.8 }}>
        <Heading aside={`${paired} of ${deliveredParts(document).length} paired`}>Pairs</Heading>
      </Box>
      {deliveredParts(document).map((p, i) => {
        const f = bake?.figures.pairs.find((x) => x.id === p.id);
        const now = measured?.find((x) => x.id === p.id);
        const low = form?.ledger.parts.find((x) => x.id === p.id)?.triangles;
        return (
          <Box key={p.id} sx={{ px: 1.8, py: 0.7, borderBottom: 1, borderColor: 'sheet.faint' }}>
            <Box sx={{ display: 'grid', gridTemplateColumns: '22px 1fr auto', alignItems: 'baseline' }}>
              <Box className="narrow" sx={{ color: 'text.secondary' }}>
                {i + 1}
              </Box>
              <Box sx={{ fontWeight: 600 }}>{p.name}</Box>
              <Box className="mono" sx={{ fontSize: 12.5 }}>
                {low ? k(low) : '–'} / {f ? k(f.highTriangles) : p.high ? k(p.high.triangles) : '–'}
              </Box>
            </Box>
            <Box className="narrow" sx={{ pl: '22px', fontSize: 12, color: 'text.secondary' }}>
              {f?.itself && !p.high
                ? 'no high mesh: baked from itself'
                : now
                  ? `${length(now.frontMm)} outward · ${length(now.rearMm)} inward · paired by ${p.high?.pairedBy}`
                  : f && !f.itself
                    ? `${length(f.frontMm)} outward · ${length(f.rearMm)} inward`
                    : p.high
                      ? `paired by ${p.high.pairedBy}`
                      : p.shape.kind === 'recipe'
                        ? 'high from the recipe'
                        : 'no high mesh'}
            </Box>
            {document.highParts.length > 0 && <From part={p} document={document} />}
          </Box>
        );
      })}
      {left.length > 0 && (
        <Box className="narrow" sx={{ px: 1.8, pt: 0.8, fontSize: 12, color: 'text.secondary' }}>
          {left.length === 1 ? 'Nothing is baked from' : `Nothing is baked from ${left.length} high meshes:`}{' '}
          {left
            .slice(0, 4)
            .map((h) => `“${h.name}”`)
            .join(', ')}
          {left.length > 4 ? ' …' : ''}
        </Box>
      )}
      {document.parts.length > 0 && (
        <Box sx={{ px: 1.8, pt: 1, display: 'flex', gap: 1, alignItems: 'center' }}>
          <Button variant="outlined" onClick={files.choose}>
            Bring a high mesh
          </Button>
          <Choice label="in" value={unit} choices={LENGTH_UNITS.map((u) => [u, u] as const)} onChange={setUnit} />
          {files.input}
        </Box>
      )}
    </Box>
  );
});

/** Which of the high meshes that were brought a part is baked from; empty where it is from none, or from one of a file that went. */
function bakedFrom({ highParts }: Pick<AssetDocument, 'highParts'>, { high }: Part): string[] {
  if (!high) return [];
  const here = new Set(highParts.map((h) => h.blob));
  if (high.of) return high.of.every((blob) => here.has(blob)) ? high.of : [];
  const one = highParts.find((h) => h.name === high.name);
  return one ? [one.blob] : [];
}

/** What a part is baked from: one mesh, or several together. */
function From({ part: p, document }: { part: Part; document: Pick<AssetDocument, 'highParts'> }) {
  const session = useSession();
  const [another, setAnother] = useState(false);
  const from = bakedFrom(document, p);
  const chosen = new Set(from);
  const free = document.highParts.filter((h) => !chosen.has(h.blob));
  const names = new Map(document.highParts.map((h) => [h.blob, h.name]));
  const choose = (blobs: readonly string[]) => {
    setAnother(false);
    void choosePair(session, p.id, blobs.filter(Boolean));
  };
  const offered = (own: string) => [...(own ? [[own, names.get(own) ?? ''] as const] : []), ...free.map((h) => [h.blob, h.name] as const)];
  return (
    <Box sx={{ pl: '22px' }}>
      <Choice
        label="from"
        value={from[0] ?? p.high?.blob ?? ''}
        choices={[
          ['', p.shape.kind === 'recipe' ? 'the recipe' : 'itself'],
          ...offered(from[0] ?? ''),
          // From a file that another has taken the place of: it stays until it is changed.
          ...(p.high && from.length === 0 ? [[p.high.blob, `${p.high.name}, as before`] as const] : []),
        ]}
        onChange={(blob) => choose(blob ? [blob, ...from.slice(1)] : [])}
      />
      {from.slice(1).map((own, i) => (
        <Choice
          key={own}
          label="and"
          value={own}
          choices={[['', 'no more'], ...offered(own)]}
          onChange={(blob) => choose(from.map((x, k) => (k === i + 1 ? blob : x)))}
        />
      ))}
      {another ? (
        <Choice<string> label="and" value="" choices={[['', 'choose …'], ...offered('')]} onChange={(blob) => choose([...from, blob])} />
      ) : (
        from.length > 0 &&
        free.length > 0 && (
          <Button onClick={() => setAnother(true)} sx={{ fontSize: 12, p: 0, minWidth: 0, minHeight: 24 }}>
            And another mesh
          </Button>
        )
      )}
    </Box>
  );
}
