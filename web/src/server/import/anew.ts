import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { STEP_TOLERANCE } from '@wellmorph/core/io/step-file';
import { type Anew, dressedAnew, matchAnew, needsCarrying, partsFrom, withRegions } from '@wellmorph/core/pipeline/anew';
import { applyCommand, type Command } from '@wellmorph/core/pipeline/commands/index';
import type { Material, Part, Source } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { readBlob } from '../blobs/store';
import { assetState, editAsset } from '../db/assets';
import { formedLow } from './meshes';
import { parseUpload } from './parse';
import { onLatest, takeOver } from './take';

/** Parts as a newer file or a newer state of a piece has them. */
interface Taken {
  parts: Part[];
  materials: Material[];
  source: Source;
}

/**
 * Puts newer parts in place of those that came from the same file or piece, as one change: what the artist did with them stays, picked
 * regions where they are found again.
 *
 * @param what was taken, for the history
 * @returns sentences about what is new, what is gone and what was not found again
 */
export function takeAnew(
  assetId: string,
  from: { fileName: string } | { asset: string },
  taken: Taken,
  what: string,
  signal?: AbortSignal,
): Promise<string[]> {
  return onLatest(
    assetId,
    async ({ document, version }) => {
      const older = partsFrom(document, from).filter((p) => p.shape.kind === 'mesh');
      if (older.length === 0) throw new InputError('anew/none', 'No part of this piece came from there any more; nothing was replaced.');
      const { pairs, fresh, gone } = matchAnew(
        older,
        taken.parts.map((p) => p.origin as NonNullable<Part['origin']>),
      );
      const bare = pairs.map(({ part, newer }): Anew => {
        const { shape, high, origin } = taken.parts[newer];
        if (shape.kind !== 'mesh' || !origin) throw new Error('What is taken over is a mesh that came from somewhere.');
        return {
          part,
          low: shape.low,
          placements: shape.placements,
          ...(shape.came && { came: shape.came }),
          ...(high && { high }),
          origin,
        };
      });
      // What is new in it belongs with what was there.
      const parts = fresh.map((i) => ({ ...taken.parts[i], group: older[0].group }));
      const materials = taken.materials.filter((m) =>
        parts.some((p) => p.material === m.id || p.regions?.some((r) => r.material === m.id)),
      );
      const command = (anew: Anew[]): Extract<Command, { type: 'parts.anew' }> => ({
        type: 'parts.anew',
        anew,
        parts,
        materials,
        dressed: dressedAnew(document, pairs, taken),
        gone,
        source: taken.source,
        what,
      });
      const named = (id: string) => document.parts.find((p) => p.id === id)?.name ?? '';
      const picked = document.parts.some((p) => bare.some((a) => a.part === p.id) && needsCarrying(p));
      let found: { anew: Anew[]; notes: string[] } = { anew: bare, notes: [] };
      if (picked) {
        const next = applyCommand(document, command(bare)).document;
        const [before, after] = [await formedLow(document), await formedLow(next)].map((l) => new Map(l.map((p) => [p.id, p.mesh])));
        found = withRegions(document, bare, before, after);
      }
      await editAsset(assetId, version, command(found.anew));
      return [
        ...found.notes,
        ...(parts.length > 0 ? [`New in it: ${parts.map((p) => p.name).join(', ')}.`] : []),
        ...(gone.length > 0 ? [`No longer in it, and left as before: ${gone.map(named).join(', ')}.`] : []),
      ];
    },
    signal,
  );
}

/** Cuts the exact surfaces of a STEP file anew, finer or coarser, for all parts that came in it. @throws InputError in one sentence */
export async function cutAnew(assetId: string, fileName: string, toleranceMm: number): Promise<{ notes: string[] }> {
  const { document } = await assetState(assetId);
  const origin = partsFrom(document, { fileName }).find((p) => p.origin?.kind === 'file' && p.origin.exact)?.origin;
  const exact = origin?.kind === 'file' ? origin.exact : undefined;
  if (!exact) throw new InputError('exact/none', `“${fileName}” is not kept with this piece; bring it in again to cut it otherwise.`);
  if (!(toleranceMm >= STEP_TOLERANCE.least && toleranceMm <= STEP_TOLERANCE.most))
    throw new InputError(
      'exact/tolerance',
      `Surfaces can be cut to ${figure(STEP_TOLERANCE.least, 3)} to ${figure(STEP_TOLERANCE.most, 0)} mm.`,
    );
  const folder = await mkdtemp(join(tmpdir(), 'wellmorph-'));
  try {
    const path = join(folder, 'exact.step');
    await writeFile(path, await readBlob(exact.blob));
    const model = await parseUpload({ fileName: 'exact.step', path, unit: 'mm', companions: {}, toleranceMm, up: exact.up });
    const known = document.sources.find((s) => s.fileName === fileName);
    const taken = await takeOver(model, { fileName, licence: known?.licence ?? '' }, { ...exact, toleranceMm });
    return { notes: await takeAnew(assetId, { fileName }, taken, `${fileName} cut to ${figure(toleranceMm, 3)} mm`) };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
