import { bandsOf, emptyGathered } from '@wellmorph/core/gather/bands';
import { Gatherer } from '@wellmorph/core/gather/gather';
import { codecsFor } from '@wellmorph/core/io/codecs';
import { decodeTexture } from '@wellmorph/core/io/textures';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import { judgeCame } from '@wellmorph/core/pipeline/came-judged';
import { finishGather, forecastPlaces, placesOf, prepareGatherOf } from '@wellmorph/core/pipeline/gather';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { checkpoint } from '@wellmorph/core/task';
import type { Handlers } from './handlers';
import type { Work } from './protocol';

/** Pictures that came with files: measured, and gathered: one worker prepares, all draw bands out of a list they share, one finishes. */
export const gatherHandlers: Pick<Handlers, 'texels' | 'cameJudged' | 'gatherForecast' | 'gatherPrepare' | 'gatherBands' | 'gatherFinish'> =
  {
    async texels({ name, bytes }) {
      await codecsFor([{ bytes }]);
      const { width, height, channels, data } = decodeTexture(name, bytes);
      const rgba = new Uint8ClampedArray(4 * width * height).fill(255);
      for (let i = 0; i < width * height; i++)
        for (let k = 0; k < 4; k++) {
          // Grey stands for all three colours; a second or fourth channel is alpha.
          const from = channels < 3 ? (k < 3 ? 0 : 1) : k;
          if (from < channels) rgba[4 * i + k] = data[channels * i + from];
        }
      return { width, height, rgba };
    },
    async cameJudged({ document, parts, pictures, wanted }, task) {
      await codecsFor(pictures.values());
      return judgeCame(document, decodeParts(parts), pictures, wanted, task);
    },
    gatherForecast: ({ document, parts, density }) => ({ places: forecastPlaces(document, decodeParts(parts), density) }),
    async gatherPrepare({ document, formed, laid, pictures, set }) {
      await codecsFor(pictures.values());
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
