import { bandsOf, emptyGathered } from '@wellmorph/core/gather/bands';
import { Gatherer } from '@wellmorph/core/gather/gather';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import { judgeCame } from '@wellmorph/core/pipeline/came-judged';
import { finishGather, forecastPlaces, placesOf, prepareGatherOf } from '@wellmorph/core/pipeline/gather';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { checkpoint } from '@wellmorph/core/task';
import type { Handlers } from './handlers';
import type { Work } from './protocol';

/** Pictures that came with files: measured, and gathered: one worker prepares, all draw bands out of a list they share, one finishes. */
export const gatherHandlers: Pick<Handlers, 'cameJudged' | 'gatherForecast' | 'gatherPrepare' | 'gatherBands' | 'gatherFinish'> = {
  cameJudged: ({ document, parts, pictures, wanted }, task) => judgeCame(document, decodeParts(parts), pictures, wanted, task),
  gatherForecast: ({ document, parts, density }) => ({ places: forecastPlaces(document, decodeParts(parts), density) }),
  gatherPrepare({ document, formed, laid, pictures, set }) {
    const room = sharedRoom();
    const prepared = prepareGatherOf(document, decodeParts(formed), decodeParts(laid), pictures, set, room);
    return { prepared, gathered: emptyGathered(prepared.job.size, room), places: placesOf(prepared.job) };
  },
  gatherBands({ prepared, gathered, bands, next }, task) {
    const gatherer = new Gatherer(prepared.job, gathered);
    const done: Work['gatherBands']['answer'] = [];
    for (let i = Atomics.add(next, 0, 1); i < bands.length; i = Atomics.add(next, 0, 1)) {
      // What was drawn so far is kept when it is stopped.
      if (task.cancelled()) break;
      done.push({ band: bands[i], counts: gatherer.draw(bands[i]) });
      task.progress((i + 1) / bands.length, `gathering, ${bandsOf(prepared.job.size)} strips`);
    }
    return done;
  },
  gatherFinish({ document, prepared, gathered, counts, seconds }, task) {
    checkpoint(task);
    return finishGather(document, prepared, gathered, counts, seconds, task);
  },
};
