import 'reflect-metadata';
import { RIG_DEFAULTS } from '@wellmorph/core/light/rig';
import { fromLibrary } from '@wellmorph/core/surface/library';
import { describe, expect, it } from 'vitest';
import { checkedCommand } from './command';
import { RequestError } from './route';

/** Changes of the second half that must be refused in one sentence, and what the sentence is about. */
const brass = fromLibrary('polished-brass', 'b');
const worn = brass.layers.find((l) => l.id === 'wear') as (typeof brass.layers)[number];
const layers = (...list: object[]) => ({ type: 'material.set', material: 'b', patch: { layers: list } });
const WRONG: [what: string, command: object, words: RegExp][] = [
  ['a material without its index', { type: 'material.add', material: { ...brass, ior: undefined } }, /ior/],
  ['a colour of two numbers', { type: 'material.add', material: { ...brass, colour: [1, 0] } }, /colour/],
  ['a colour brighter than white', { type: 'material.set', material: 'b', patch: { colour: [1, 1.2, 1] } }, /colour/],
  ['a roughness that is a word', { type: 'material.set', material: 'b', patch: { roughness: 'rough' } }, /roughness/],
  ['a roughness that is no number', { type: 'material.set', material: 'b', patch: { roughness: Number.NaN } }, /roughness/],
  ['an index below that of air', { type: 'material.set', material: 'b', patch: { ior: 0.5 } }, /ior/],
  [
    'more wear than there is surface',
    layers({ ...worn, mask: [{ ...worn.mask[0], field: { kind: 'worn', share: 1.4 } }] }),
    /Share of rubbed places/,
  ],
  ['a layer without its opacity', layers({ ...worn, opacity: undefined }), /opacity of Worn/],
  ['two layers of one id', layers(worn, worn), /two layers of one id/],
  [
    'a field nobody knows',
    layers({ ...worn, mask: [{ join: 'times', inverted: false, field: { kind: 'stars' } }] }),
    /a kind there is not/,
  ],
  ['a look nobody has', layers({ ...worn, look: { shine: 1 } }), /the look of Worn/],
  ['a glow of minus one', { type: 'material.set', material: 'b', patch: { emission: -1 } }, /emission/],
  ['a property nobody has', { type: 'material.set', material: 'b', patch: { shine: 1 } }, /shine/],
  ['an id that was chosen by someone', { type: 'material.set', material: 'b', patch: { id: 'c' } }, /id/],
  ['no material at all', { type: 'material.set', patch: { roughness: 1 } }, /material/],
  ['half a seed', { type: 'surface.set', patch: { seed: 1.5 } }, /seed/],
  ['a rig with two lamps', { type: 'rig.set', patch: { lamps: { key: RIG_DEFAULTS.lamps.key, fill: RIG_DEFAULTS.lamps.fill } } }, /rim/],
  [
    'a lamp inside the piece',
    { type: 'rig.set', patch: { lamps: { ...RIG_DEFAULTS.lamps, key: { ...RIG_DEFAULTS.lamps.key, distance: 0.2 } } } },
    /distance/,
  ],
  [
    'a lamp colder than ice',
    { type: 'rig.set', patch: { lamps: { ...RIG_DEFAULTS.lamps, rim: { ...RIG_DEFAULTS.lamps.rim, kelvin: 12 } } } },
    /kelvin/,
  ],
  ['a ground that isn’t one', { type: 'rig.set', patch: { background: 'the sea' } }, /background/],
  ['a lens of nothing', { type: 'shot.set', patch: { lensMm: 0 } }, /lensMm/],
  ['a picture of half a pixel', { type: 'shot.set', patch: { widthPx: 0.5 } }, /widthPx/],
  ['a picture as wide as a street', { type: 'shot.set', patch: { widthPx: 1e6 } }, /widthPx/],
  ['an aperture wider than glass allows', { type: 'shot.set', patch: { aperture: 0.1 } }, /aperture/],
  ['a curve of one’s own', { type: 'shot.set', patch: { tone: 'moody' } }, /tone/],
  ['a lock that is a word', { type: 'shot.set', patch: { locked: 'yes' } }, /locked/],
  ['one sample', { type: 'render.set', patch: { samples: 1 } }, /samples/],
  ['no noise at all', { type: 'render.set', patch: { noise: 0 } }, /noise/],
  ['a unit from the sea', { type: 'handoff.set', patch: { unit: 'fathom' } }, /unit/],
  ['half a list of what goes in', { type: 'handoff.set', patch: { include: { glb: true } } }, /include|obj/],
  ['a command nobody knows', { type: 'material.polish' }, /not a change/],
];

describe('changes of the wrong shape', () => {
  it.each(WRONG)('%s', async (_, command, words) => {
    const refused = checkedCommand(JSON.parse(JSON.stringify(command)));
    await expect(refused).rejects.toBeInstanceOf(RequestError);
    await expect(refused).rejects.toThrow(words);
    await expect(refused).rejects.toMatchObject({ status: 400 });
  });
  it('what is optional may be left out, and null stands where it means something', async () => {
    const fine = [
      { type: 'material.set', material: 'b', patch: { layers: [], base: null } },
      { type: 'shot.set', patch: { aperture: null } },
      { type: 'rig.set', patch: {} },
      { type: 'material.add', material: { ...brass, layers: [] } },
    ];
    for (const command of fine) expect(await checkedCommand(command)).toEqual(command);
  });
});
