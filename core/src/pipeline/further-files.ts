import { strToU8 } from 'fflate';
import { FURTHER, FURTHER_MAPS, type FurtherMap } from '../bake/maps/further';
import { figure } from '../units/lengths';
import type { BakeFigures, BakeFiles } from './bake';

/** A map as it is handed over: its name after that of the asset, and what it holds in a sentence. */
export interface HandedMap {
  name: string;
  bytes: Uint8Array;
  what: string;
}

/** What black and white of a map stand for, in words; empty where it has no range. */
export function rangeWords(map: FurtherMap, figures: Pick<BakeFigures, 'ranges'> | null): string {
  const range = figures?.ranges?.[map];
  if (!range) return '';
  const each = range.from.map((x, k) => `${figure(x, 3)} … ${figure(range.to[k], 3)}`);
  return `${range.from.length > 1 ? `red ${each[0]}, green ${each[1]}, blue ${each[2]}` : each[0]} mm from black to white`;
}

/** The further maps of a bake with their values, and the legend of the id map. */
export function furtherFiles(files: BakeFiles, figures: BakeFigures | null): HandedMap[] {
  const out: HandedMap[] = [];
  for (const map of FURTHER_MAPS) {
    const png = files[map];
    if (!png) continue;
    const { file, about } = FURTHER[map];
    const range = rangeWords(map, figures);
    out.push({ name: `${file}.png`, bytes: png, what: `${about}${range && `; ${range}`}; linear` });
    const exr = map === 'thickness' || map === 'position' || map === 'height' ? files[`${map}Exr`] : undefined;
    if (exr) out.push({ name: `${file}.exr`, bytes: exr, what: `${about}, as floats in mm` });
    if (map === 'id' && figures?.ids)
      out.push({
        name: `${file}.json`,
        bytes: strToU8(`${JSON.stringify(figures.ids.legend, null, 2)}\n`),
        what: figures.ids.by === 'colour' ? 'the colours that were painted' : `which colour stands for which ${figures.ids.by}`,
      });
  }
  return out;
}
