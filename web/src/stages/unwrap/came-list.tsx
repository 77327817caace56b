'use client';

import Box from '@mui/material/Box';
import { adviseBrief } from '@wellmorph/core/brief/advice';
import { picturesOf } from '@wellmorph/core/pipeline/came';
import type { CameMeasured } from '@wellmorph/core/pipeline/came-judged';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo } from 'react';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { useAnswered } from '@/sheet/answered';
import { Heading } from '@/sheet/fields';

const COLOURS = { over: 'error.main', near: 'warning.main', ok: 'text.secondary' } as const;

/** Pictures that materials came with: their size, what they hold, how finely they lie on the piece, and what is wrong with them. */
export function CameList({ document }: { document: AssetDocument }) {
  const session = useSession();
  const form = useSheet((s) => s.form);
  const parts = isFresh(document, form, 'form') ? form?.parts : undefined;
  const wanted = adviseBrief(document.brief).wanted.densityPxPerCm;
  const textured = document.materials.some((m) => m.texturing);
  // What is measured depends on these alone: a new seam asks nothing anew.
  const { materials, parts: own, sources } = document;
  const about = useMemo(
    () => (parts && textured ? { document: { ...document, materials, parts: own, sources }, parts, wanted } : null),
    [parts, textured, wanted, materials, own, sources],
  );
  const made = useAnswered(about, async (ask) => {
    const { blobs, pool } = session.bench;
    const pictures = await picturesOf(ask.document, (blob) => blobs.get(blob));
    return pool.run('cameJudged', { ...ask, pictures });
  });
  if (!textured) return null;
  return (
    <Box component="section" aria-label="pictures it came with" sx={{ mt: 2 }}>
      <Heading aside={made ? `${made.answer.length}` : undefined}>Pictures it came with</Heading>
      {!made && <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>Measuring them …</Box>}
      <Box component="ul" sx={{ listStyle: 'none', p: 0, m: 0 }}>
        {made?.answer.map((p) => (
          <Picture key={p.blob} picture={p} />
        ))}
      </Box>
    </Box>
  );
}

function Picture({ picture: p }: { picture: CameMeasured }) {
  return (
    <Box component="li" sx={{ display: 'flex', gap: 1, py: 0.7, borderBottom: 1, borderColor: 'divider' }}>
      <Box
        component="img"
        src={`/api/blobs/${p.blob}`}
        alt=""
        loading="lazy"
        sx={{ width: 34, height: 34, objectFit: 'cover', border: 1, borderColor: 'divider', flex: 'none' }}
      />
      <Box sx={{ minWidth: 0, flex: 1 }}>
        <Box sx={{ display: 'flex', justifyContent: 'space-between', gap: 1, fontSize: 13 }}>
          <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={p.name}>
            {p.name}
          </Box>
          <Box component="span" className="mono" sx={{ flex: 'none', fontSize: 12.5 }}>
            {p.least === null ? '–' : `${figure(p.least, 1)} px/cm`}
          </Box>
        </Box>
        <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
          {p.size ? `${figure(p.size[0], 0)} × ${figure(p.size[1], 0)} · ` : ''}
          {p.space} · {p.says.join(', ')} of {p.materials.join(', ')}
        </Box>
        {p.faults.map((f) => (
          <Box key={f.sentence} sx={{ fontSize: 12, color: COLOURS[f.level] }}>
            {f.sentence}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
