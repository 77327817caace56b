import { BAND, total } from '../bake/bands';
import { BandBaker } from '../bake/cast';
import { ringsFound, ringsOf } from '../bake/dilate';
import { curvatureMap } from '../bake/maps/curvature';
import { furtherFile } from '../bake/maps/files';
import { normalMap } from '../bake/maps/normal';
import { occlusionMap } from '../bake/maps/occlusion';
import { emptyTexels, type Texels } from '../bake/texels';
import { type TileRect, windowOf, windowOn } from '../bake/window';
import { encodePng, type Pixels } from '../image/png';
import { rayWords } from '../rays/kernel/host';
import { checkpoint, QUIET, type Task } from '../task';
import type { BakeFile, BakeSettings, PreparedBake } from './bake';

/** A square of a map at its full size. */
export interface WindowBaked {
  png: Uint8Array;
  /** Where it lies in the tile, shares of its side from the upper left corner. */
  at: TileRect;
  /** Side, texels. */
  side: number;
  missedShare: number;
  backShare: number;
}

/** Bakes one rectangle of one map at the size it will have, and nothing else. */
export function bakeWindow(bake: PreparedBake, settings: BakeSettings, rect: TileRect, map: BakeFile, task: Task = QUIET): WindowBaked {
  const { size } = bake.prepared;
  const window = windowOn(rect, size);
  const texels = emptyTexels(bake.prepared);
  const baker = new BandBaker(bake.prepared, texels);
  const [from, to] = [Math.floor(window.y / BAND), Math.floor((window.y + window.side - 1) / BAND)];
  for (let band = from; band <= to; band++) {
    checkpoint(task);
    baker.bake(band, window.x, window.x + window.side);
    task.progress((band + 1 - from) / (to + 1 - from), rayWords('casting rays'));
  }
  const samples = Math.max(1, total(texels.counts.samples));
  return {
    png: encodePng(pictureOf(windowOf(texels, window), settings, map, bake.ids?.legend ?? [])),
    at: { x: window.x / size, y: window.y / size, width: window.side / size, height: window.side / size },
    side: window.side,
    missedShare: total(texels.counts.missed) / samples,
    backShare: total(texels.counts.back) / samples,
  };
}

/** The picture of a map; of what is judged only afterwards, the normals. */
function pictureOf(texels: Texels, settings: BakeSettings, map: BakeFile, legend: readonly { colour: string }[]): Pixels {
  const rings = ringsFound(texels.state, texels.size);
  switch (map) {
    case 'occlusion':
      return occlusionMap(texels, rings);
    case 'curvature':
      return curvatureMap(texels, rings);
    case 'objectNormal':
    case 'bentNormal':
    case 'thickness':
    case 'position':
    case 'height':
    case 'id':
    case 'opacity': {
      const known = map === 'opacity' ? ringsOf(texels.state, texels.size) : rings;
      return furtherFile(map, texels, known, { bits: 8, thicknessMm: settings.thicknessMm, legend }).png;
    }
    default:
      return normalMap(texels, { y: settings.y, bits: 8 }, rings);
  }
}
