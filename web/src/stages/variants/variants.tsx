'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { differencesOf, MOST_VARIANTS, type Variant } from '@wellmorph/core/pipeline/variants';
import { figure } from '@wellmorph/core/units/lengths';
import { useSession, useSheet } from '@/session/context';
import { Heading } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { NameField } from '@/sheet/name-field';
import { Act, Plain } from '@/sheet/plain';
import { freeName } from '../surface/bench';
import { runSets } from './run';

/** The looks of the piece: which one is looked at, and so worked on, and what of it is otherwise than on the piece. */
export function Variants() {
  const session = useSession();
  const piece = useSheet((s) => s.piece);
  const as = useSheet((s) => s.document?.as ?? null);
  const busy = useSheet((s) => s.job !== null);
  if (!piece) return null;
  const variants = piece.variants ?? [];
  const chosen = variants.find((v) => v.id === as);
  const add = (from?: Variant) => {
    const variant = newId();
    const name = freeName(from?.name ?? 'Variant', variants);
    if (session.dispatch({ type: 'variant.set', variant, name, ...(from && { from: from.id }) })) session.showVariant(variant);
  };
  const compose = async () => {
    const made = await runSets(session);
    if (made) session.notify(`${made.sets} sets are there, in ${figure(made.seconds, 1)} s.`);
  };
  return (
    <Box role="group" aria-label="variants" sx={{ px: 1.8, mb: 1.8 }}>
      <Heading aside="labels, colours, finishes">Variants</Heading>
      {variants.length > 0 && (
        <Look name={piece.name} words="as it is itself" isChosen={!chosen} onChoose={() => session.showVariant(null)} />
      )}
      {variants.map((v) => {
        const count = differencesOf(piece, v).length;
        return (
          <Look
            key={v.id}
            name={v.name}
            words={count === 0 ? 'as the piece so far' : `${count} ${count === 1 ? 'thing' : 'things'} otherwise`}
            isChosen={v === chosen}
            onChoose={() => session.showVariant(v.id)}
          />
        );
      })}
      {chosen && <Chosen key={chosen.id} variant={chosen} onCopy={() => add(chosen)} />}
      {variants.length === 0 && (
        <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary', pb: 0.4 }}>
          One piece, several labels, colours or finishes: what they share is made once.
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 0.8, mt: 0.8 }}>
        <Button variant="outlined" disabled={variants.length >= MOST_VARIANTS} onClick={() => add()}>
          New variant
        </Button>
        {variants.length > 0 && (
          <Button variant="outlined" disabled={busy} onClick={() => void compose()}>
            Compose all {variants.length + 1} sets
          </Button>
        )}
      </Box>
    </Box>
  );
}

function Look({ name, words, isChosen, onChoose }: { name: string; words: string; isChosen: boolean; onChoose(): void }) {
  return (
    <Plain
      aria-pressed={isChosen}
      onClick={onChoose}
      sx={{
        display: 'flex',
        justifyContent: 'space-between',
        width: '100%',
        px: 0.9,
        py: 0.45,
        mb: 0.4,
        gap: 1,
        fontSize: 13,
        border: 1,
        borderRadius: 1,
        borderColor: isChosen ? 'primary.main' : 'divider',
        bgcolor: isChosen ? 'sheet.tint' : 'background.paper',
      }}
    >
      <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
        {name}
      </Box>
      <Box component="span" className="narrow" sx={{ fontSize: 11.5, color: 'text.secondary', whiteSpace: 'nowrap' }}>
        {words}
      </Box>
    </Plain>
  );
}

/** The one that is worked on. */
function Chosen({ variant, onCopy }: { variant: Variant; onCopy(): void }) {
  const session = useSession();
  const piece = useSheet((s) => s.piece);
  if (!piece) return null;
  const differences = differencesOf(piece, variant);
  return (
    <Box sx={{ pl: 1, borderLeft: 2, borderColor: 'primary.main', mt: 0.6 }}>
      <NameField
        label="Its name"
        id="variant-name"
        value={variant.name}
        onName={(name) => session.dispatch({ type: 'variant.set', variant: variant.id, name })}
      />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', pb: 0.3 }}>
        {differences.length === 0
          ? 'What is changed of prints and materials from here on is this variant’s alone; all else is the piece’s.'
          : 'Otherwise than on the piece:'}
      </Box>
      {differences.map((d) => (
        <Box
          key={`${d.of} ${d.key}`}
          sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'baseline', gap: 1, fontSize: 12.5, py: 0.15 }}
        >
          <Box component="span" sx={{ minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {d.name}: {d.words}
          </Box>
          <Act
            aria-label={`${d.name} as on the piece`}
            sx={{ flex: 'none', whiteSpace: 'nowrap' }}
            onClick={() => session.dispatch({ type: 'variant.back', variant: variant.id, of: d.of, key: d.key })}
          >
            As the piece
          </Act>
        </Box>
      ))}
      <Box sx={{ display: 'flex', gap: 1.2, mt: 0.4 }}>
        <Act onClick={onCopy}>Copy it</Act>
        <Act
          quiet
          onClick={() => {
            session.showVariant(null);
            session.dispatch({ type: 'variant.remove', variant: variant.id });
          }}
        >
          Remove it
        </Act>
      </Box>
    </Box>
  );
}
