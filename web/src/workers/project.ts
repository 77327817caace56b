import { InputError, WellmorphError } from '@wellmorph/core/errors';
import { bandsOf } from '@wellmorph/core/gather/bands';
import type { SourcePicture } from '@wellmorph/core/gather/picture';
import type { StoodBox } from '@wellmorph/core/photo/box';
import type { Matched } from '@wellmorph/core/photo/match';
import { emptyProjected } from '@wellmorph/core/photo/project/job';
import { Projector } from '@wellmorph/core/photo/project/projector';
import { edgesOff, matchPhoto, type SolvedPhoto, sizesFromPhoto, solvePhoto } from '@wellmorph/core/photo/solve';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import { photosTaken } from '@wellmorph/core/pipeline/document';
import { finishProject, prepareProjectOf } from '@wellmorph/core/pipeline/project';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { checkpoint } from '@wellmorph/core/task';
import type { Handlers } from './handlers';
import type { Work } from './protocol';
import { unpacked } from './unpack';

/** What a photograph says so far, and what keeps it from saying more. */
export interface PhotoSolved {
  /** Lens and turn, before anything stands in it. */
  matched: Matched | null;
  /** Of each edge, px. */
  edgesPx: number[];
  /** Where it was taken from. */
  solved: SolvedPhoto | null;
  /** The sizes it says of a box, where one of them is known. */
  sizes: StoodBox | null;
  /** One sentence each. */
  wrong: { camera: string | null; sizes: string | null };
}

/** What `make` gives, or why it can’t. */
function tried<T>(make: () => T): { value: T | null; wrong: string | null } {
  try {
    return { value: make(), wrong: null };
  } catch (error) {
    if (error instanceof WellmorphError) return { value: null, wrong: error.message };
    throw error;
  }
}

/** Pixels of all photographs together, three bytes each with as much again for smaller levels. */
const MOST_PIXELS = 320e6;
/** Cameras of photographs, and photographs laid on a piece: one worker prepares, all draw bands out of a list they share, one finishes. */
export const projectHandlers: Pick<Handlers, 'photoSolved' | 'projectPrepare' | 'projectBands' | 'projectFinish'> = {
  photoSolved({ photo, bounds }) {
    const { known } = photo;
    const matched = tried(() => matchPhoto(photo));
    const solved = tried(() => (bounds ? solvePhoto(photo, bounds) : null));
    const sizes = tried(() => (known ? sizesFromPhoto(photo, known) : null));
    const best = solved.value?.stood.matched ?? sizes.value?.matched ?? matched.value;
    return {
      matched: matched.value,
      edgesPx: best ? edgesOff(photo, best) : [],
      solved: solved.value,
      sizes: sizes.value,
      wrong: { camera: solved.wrong ?? matched.wrong, sizes: sizes.wrong },
    };
  },
  async projectPrepare({ document, laid, photos }, task) {
    const pixels = new Map<string, SourcePicture>();
    const all = photosTaken(document).reduce((n, p) => n + p.widthPx * p.heightPx, 0);
    if (all > MOST_PIXELS)
      throw new InputError(
        'photo/memory',
        `The photographs come to ${Math.round(all / 1e6)} megapixels, and ${MOST_PIXELS / 1e6} can be held at once; leave some of them out.`,
      );
    for (const [i, { id, bytes }] of photos.entries()) {
      task.progress((0.8 * i) / photos.length, 'unpacking photographs');
      pixels.set(id, await unpacked(bytes));
      checkpoint(task);
    }
    const room = sharedRoom();
    const prepared = prepareProjectOf(document, decodeParts(laid), pixels, room);
    return { prepared, projected: emptyProjected(prepared.job.size, room) };
  },
  projectBands({ prepared, projected, bands, next }, task) {
    const projector = new Projector(prepared.job, projected);
    const done: Work['projectBands']['answer'] = [];
    for (let i = Atomics.add(next, 0, 1); i < bands.length; i = Atomics.add(next, 0, 1)) {
      checkpoint(task);
      done.push({ band: bands[i], counts: projector.draw(bands[i]) });
      task.progress((i + 1) / bands.length, `laying on, ${bandsOf(prepared.job.size)} strips`);
    }
    return done;
  },
  projectFinish({ document, prepared, projected, counts, seconds }, task) {
    checkpoint(task);
    return finishProject(document, prepared, projected, counts, seconds, task);
  },
};
