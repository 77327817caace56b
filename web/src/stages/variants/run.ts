import type { ContactPicture } from '@wellmorph/core/drawing/contact-sheet';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { inputsOf, KEPT, type Kept, nameOf, type StoredResult } from '@wellmorph/core/pipeline/results';
import { groundOf } from '@wellmorph/core/pipeline/series';
import { variantName, variantsOf } from '@wellmorph/core/pipeline/variants';
import type { Run } from '@/session/run-stage';
import type { AssetSession } from '@/session/session';
import type { SheetState } from '@/session/state';
import { seriesTask } from '../surface/task';

/** The piece itself, then as each of its variants. */
export const looksOf = (piece: AssetDocument): AssetDocument[] => [piece, ...variantsOf(piece)];
/** What a look is called beside the others. */
export const lookName = (look: AssetDocument): string => variantName(look) ?? look.name;

/** A run about one of several looks: a share of the whole. */
const about = (run: Run, document: AssetDocument, from: number, to: number): Run => ({
  ...run,
  document,
  growing: undefined,
  report: (share, words) => run.report(from + (to - from) * share, `${lookName(document)}: ${words}`),
});

/** The texture sets of looks. What they share is made once: layout and bake of all, the ground of those that differ in prints alone. */
export async function makeSets(run: Run, looks: readonly AssetDocument[], session: AssetSession): Promise<StoredResult[]> {
  const { results, pool } = session.bench;
  const known = await Promise.all(looks.map((d) => results.named(nameOf(d, 'surface'))));
  const missing = looks.filter((_, i) => !known[i]);
  const grounds = new Map<string, AssetDocument[]>();
  for (const d of missing) grounds.set(groundOf(d), [...(grounds.get(groundOf(d)) ?? []), d]);
  let done = 0;
  for (const group of grounds.values()) {
    const [first] = group;
    const at = (n: number) => (done + n) / missing.length;
    for (const input of inputsOf(first, 'surface')) if (input) await session.stage(about(run, first, at(0), at(0.5)), input);
    const tasks = group.length > 1 ? { surface: seriesTask(group) } : {};
    const waiting = [...group.entries()];
    const lane = async () => {
      try {
        for (let next = waiting.shift(); next; next = waiting.shift())
          await session.stage(about(run, next[1], at(next[0]), at(next[0] + 1)), 'surface', tasks);
      } finally {
        // The first that fails, or is stopped, lets no other begin; those under way are waited for.
        waiting.length = 0;
      }
    };
    const ends = await Promise.allSettled(Array.from({ length: pool.threads }, lane));
    const failed = ends.find((e) => e.status === 'rejected');
    if (failed) throw failed.reason;
    done += group.length;
  }
  const made = await Promise.all(looks.map((d) => results.named(nameOf(d, 'surface'))));
  return made.filter((r) => r !== null && r !== undefined);
}

/** Composes the sets of the piece and all its variants, in one run. @returns how many, and how long it took, s; null when it was stopped */
export const runSets = (session: AssetSession): Promise<{ sets: number; seconds: number } | null> =>
  session.job('variants', async (run) => {
    const { piece } = session.state;
    if (!piece) return { sets: 0, seconds: 0 };
    const began = performance.now();
    const { length } = await makeSets(run, looksOf(piece), session);
    return { sets: length, seconds: (performance.now() - began) / 1000 };
  });

/** Renders the piece and all its variants, with one shot, one light, one exposure, one seed: only they differ. */
export const runPictures = (session: AssetSession): Promise<boolean | null> =>
  session.job('variants', async (run) => {
    const looks = session.state.piece ? looksOf(session.state.piece) : [];
    const shares = 0.2;
    await makeSets({ ...run, report: (s, w) => run.report(shares * s, w) }, looks, session);
    for (const [i, look] of looks.entries()) {
      const at = (n: number) => shares + ((1 - shares) * n) / looks.length;
      await session.stage(about(run, look, at(i), at(i + 1)), 'render');
    }
    return true;
  });

/** A picture of a look as it is now, by its blob; null where none was made. */
export interface LookPicture {
  look: AssetDocument;
  name: string;
  png: string | null;
}
/** The pictures of looks that are there. */
export const picturesOf = (session: AssetSession, looks: readonly AssetDocument[]): Promise<LookPicture[]> =>
  Promise.all(
    looks.map(async (look) => {
      const found = await session.bench.results.named(nameOf(look, 'render')).catch(() => null);
      return { look, name: lookName(look), png: found?.blobs.png ?? null };
    }),
  );

/** Pictures ready to be put on a sheet. */
export const contactPictures = (session: AssetSession, pictures: readonly LookPicture[]): Promise<ContactPicture[]> =>
  Promise.all(pictures.flatMap(({ name, png }) => (png ? [session.bench.blobs.get(png).then((bytes) => ({ name, png: bytes }))] : [])));

/** Everything that is known of a look, as the sheet would show it: what isn’t made of it as it is is left out. */
export async function sheetAs(session: AssetSession, look: AssetDocument): Promise<SheetState> {
  const { bench, state } = session;
  const view = async (kind: Kept): Promise<[Kept, unknown]> => {
    const name = nameOf(look, kind);
    if (state[kind]?.name === name) return [kind, state[kind]];
    const found = await bench.results.named(name).catch(() => null);
    return [kind, found ? await bench.tasks[kind].view(found, bench) : null];
  };
  return { ...state, document: look, ...Object.fromEntries(await Promise.all(KEPT.map(view))) };
}
