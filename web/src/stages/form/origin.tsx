'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Part, PartOrigin } from '@wellmorph/core/pipeline/document';
import { useState } from 'react';
import { send } from '@/session/api';
import { useLengths, useSession } from '@/session/context';
import { sentence } from '@/session/session';
import { NumberField } from '@/sheet/fields';
import { useBringing } from './bring';
import { Inner } from './fold';
import { useOtherPieces } from './pieces';

type Origin<K extends PartOrigin['kind']> = Extract<PartOrigin, { kind: K }>;

/** Where a part's mesh came from, and how a newer one is taken in its place. */
export function OriginPanel({ part }: { part: Part }) {
  const { origin } = part;
  if (!origin) return null;
  return origin.kind === 'file' ? <FromFile origin={origin} /> : <FromPiece origin={origin} />;
}

/** Asks the server for something that changes this piece, once what was changed here is stored; what it says is said. */
function useAsked() {
  const session = useSession();
  const [busy, setBusy] = useState(false);
  const ask = async (path: string, body: object, done: string) => {
    setBusy(true);
    try {
      await session.lane.flushed();
      const { notes } = await send<{ notes: string[] }>('POST', `/api/assets/${session.id}/${path}`, body);
      await session.refresh();
      session.notify([done, ...notes].join(' '));
    } catch (error) {
      session.notify(sentence(error), 'error');
    } finally {
      setBusy(false);
    }
  };
  return { busy, ask };
}

const Words = ({ children }: { children: React.ReactNode }) => (
  <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5, my: 0.4 }}>
    {children}
  </Box>
);

function FromFile({ origin }: { origin: Origin<'file'> }) {
  const place = useBringing(origin.fileName);
  const { length } = useLengths();
  const { busy, ask } = useAsked();
  return (
    <Inner title="Came from" about={origin.fileName}>
      <Words>
        There it is called “{origin.name}”.{origin.gone ? ' The newer file has it no more.' : ''} A newer file takes the place of all parts
        that came with it: their steps, materials and seams stay, and picked regions where they are found again.
      </Words>
      {origin.exact && (
        <NumberField
          label="Surfaces cut to"
          hint={busy ? 'being cut …' : 'its surfaces are exact'}
          kind="length"
          min={0.001}
          max={1000}
          value={origin.exact.toleranceMm}
          onCommit={(toleranceMm) =>
            void ask('exact', { fileName: origin.fileName, toleranceMm }, `${origin.fileName} is cut to ${length(toleranceMm, 3)} now.`)
          }
        />
      )}
      <Button variant="outlined" disabled={busy} onClick={place.choose}>
        Replace by a newer file
      </Button>
      {place.input}
    </Inner>
  );
}

function FromPiece({ origin }: { origin: Origin<'piece'> }) {
  const { data } = useOtherPieces(!origin.frozen);
  const { busy, ask } = useAsked();
  const now = data?.find((p) => p.id === origin.asset);
  const isNewer = now !== undefined && now.state !== origin.state;
  return (
    <Inner title="Came from" about={`${origin.piece}${origin.frozen ? ', frozen' : isNewer ? ', a newer state is there' : ''}`}>
      <Words>
        {origin.frozen
          ? `It stays as ${origin.piece} was when it was brought in.`
          : !data
            ? 'Looking for the piece …'
            : !now
              ? `${origin.piece} is not in the Workshop any more; what was taken from it stays.`
              : isNewer
                ? `${now.name} has been changed since. Taking its newer state is one change, which can be taken back.`
                : `As ${now.name} is now.`}
      </Words>
      {isNewer && (
        <Button
          variant="outlined"
          disabled={busy}
          onClick={() => void ask('pieces/newer', { from: origin.asset }, `The newer state of ${now.name} was taken.`)}
        >
          {busy ? 'Forming it …' : 'Take the newer state'}
        </Button>
      )}
    </Inner>
  );
}
