import { aneroidGauge } from '@wellmorph/demo/gauge';
import { stormLantern } from '@wellmorph/demo/lantern';
import { RIG_DEFAULTS } from '../src/light/rig';
import type { Command } from '../src/pipeline/commands/index';
import type { Print } from '../src/print/print';
import { layersFrom } from '../src/surface/layers/layer';
import { fromLibrary } from '../src/surface/library';
import { stepOf } from './recipes';

const lantern = stormLantern();
const guards = lantern.parts.find((p) => p.id === 'guards');
const steps = guards?.shape.kind === 'recipe' ? guards.shape.steps : [];

/** A word stencilled on the font. */
const STENCIL: Print = {
  id: 'stencil',
  name: 'Stencil',
  on: true,
  part: 'font',
  artwork: { kind: 'text', text: 'LAMP ROOM', capital: 6, tracking: 40, leading: 1.6, align: 'middle', arc: 0, colour: [0.1, 0.1, 0.1] },
  width: 60,
  height: 6,
  at: { point: [0, 20, 30], normal: [0, 0, 1] },
  across: { from: 'middle', mm: 0 },
  up: { from: 'low', mm: 8 },
  turn: 0,
  ink: { opacity: 0.9, blend: 'multiply', roughness: 0.7 },
};

/** One of every kind of change a sheet can make to the demo’s lantern, as it comes over the wire; each can be made after those before it. */
const TURNED: Command = { type: 'print.set', print: { ...STENCIL, turn: 30 } };

export const EVERY: Command[] = [
  { type: 'rename', name: 'Lantern of the stair' },
  {
    type: 'brief.set',
    patch: { closestMm: 700, limits: { triangles: 4000, textureSize: 2048, textureSets: 1, memoryMB: 64 }, deadline: null },
  },
  { type: 'brief.set', patch: { overrides: { densityPxPerCm: 30 } } },
  {
    type: 'brief.set',
    patch: { family: { name: 'Lamp room', triangles: 9000, memoryMB: 60, densityPxPerCm: 20, deadline: null } },
  },
  { type: 'part.add', part: { ...aneroidGauge().parts[0], id: 'added' } },
  { type: 'part.set', part: 'font', patch: { role: 'fastener', material: null, move: [1, 2, 3], weight: 1.5, declaredOpen: true } },
  { type: 'part.copy', part: 'font', id: 'second font', name: 'Second font', mirror: 'x', move: [90, 0, 0], turnDegrees: [0, 0, 0] },
  { type: 'group.set', group: 'two', name: 'Fonts', parts: ['font', 'second font'] },
  { type: 'group.move', group: 'two', by: [1, 2, 3], turnDegrees: [0, 90, 0], about: [0, 0, 0] },
  { type: 'group.remove', group: 'two' },
  {
    type: 'step.add',
    part: 'bail',
    step: { kind: 'array', id: 'two', name: 'Two', enabled: true, count: 2, x: 0, z: 5, startDegrees: -90 },
  },
  { type: 'step.share', part: 'bail', step: 'two', same: 'pair', to: [{ part: 'font', id: 'two of font' }] },
  {
    type: 'step.set',
    part: 'guards',
    step: { ...steps[0], name: 'Thicker wire', ...(steps[0].kind === 'bar' && { radius: 2 }) } as Command extends { step: infer S }
      ? S
      : never,
  },
  { type: 'part.move', part: 'font', by: 2 },
  { type: 'step.move', part: 'guards', step: 'guard-array', by: -1 },
  { type: 'step.remove', part: 'guards', step: 'guard-array' },
  {
    type: 'step.add',
    part: 'bail',
    after: 'bail-bar',
    step: {
      ...stepOf('box', { id: 'foot', in: 'low', formulas: { width: 'gap * 4', corner: 'gap' } }),
      sizeIs: 'inside',
    },
  },
  { type: 'step.add', part: 'knob', step: stepOf('plate', { id: 'flag' }) },
  { type: 'step.set', part: 'knob', step: { ...stepOf('blade', { id: 'flag' }), name: 'Now a blade' } },
  { type: 'dimension.set', dimension: { id: 'd1', name: 'gap', formula: '0.4', kind: 'length' } },
  { type: 'dimension.set', dimension: { id: 'd2', name: 'tray', formula: 'gap * 2 + 1in', kind: 'length', source: 'a book' } },
  { type: 'dimension.set', dimension: { id: 'd1', name: 'clearance', formula: '0.5', kind: 'length' } },
  { type: 'dimension.remove', dimension: 'd2' },
  {
    type: 'region.set',
    part: 'font',
    region: {
      id: 'r1',
      name: 'Label',
      weight: 2,
      rules: [
        { id: 'a', how: 'add', rule: { kind: 'facing', x: 0, y: 0, z: 1, degrees: 40 } },
        { id: 'b', how: 'keep', rule: { kind: 'side', axis: 'y', way: 'above', beyond: 10 } },
        { id: 'c', how: 'remove', rule: { kind: 'picked', places: [{ patch: 'font-turned/s2', u: [0, 0.25], v: [0, 1] }] } },
        { id: 'd', how: 'keep', rule: { kind: 'alternate', pattern: 'chequered' } },
      ],
    },
  },
  { type: 'region.remove', part: 'font', region: 'r1' },
  {
    type: 'islands.lay',
    choices: [{ part: 'font', at: { from: [0, 10, 5], facing: [0, 0, 1] }, method: 'direction', towards: [0, 0, 1] }],
  },
  {
    type: 'islands.place',
    places: [
      { part: 'font', from: [0, 0, 30], facing: [0, 0, 1], along: [1, 0, 0], at: [0.2, 0.3], angle: 0.5, scale: 0.002, locked: true },
    ],
  },
  { type: 'unwrap.set', patch: { filed: 'kept', twins: 'once', second: { on: true, size: 512, padding: 4 } } },
  { type: 'part.set', part: 'font', patch: { grain: 'length' } },
  { type: 'seams.set', part: 'font', seams: [{ id: 's', patch: 'font-turned/s2', constant: 'u', at: 0.5, from: 0, to: 1 }] },
  { type: 'form.counts', counts: { 'font-turned.sides': 30 }, triangles: 4200 },
  { type: 'form.lock', key: 'font-turned.sides', label: 'sides', count: 24 },
  { type: 'form.lock', key: 'font-turned.sides', label: 'sides', count: null },
  { type: 'form.share', part: 'font', triangles: 900 },
  { type: 'form.share', part: 'cap', triangles: null },
  { type: 'form.tie', key: 'font-turned.sides', label: 'sides', to: 'cap-turned.sides' },
  { type: 'parts.move', by: [0, 2.5, 0] },
  { type: 'travel.set', part: 'knob', travel: { kind: 'turn', axis: 'x', from: 0, to: 90, x: 0, y: 30, z: 0 } },
  { type: 'travel.set', part: 'bail', travel: null },
  { type: 'relation.set', relation: { id: 'rel', a: 'font', b: 'cap', wanted: 'free', mm: 0, tolerance: 0.05 } },
  { type: 'relation.remove', relation: 'rel' },
  { type: 'reference.remove', reference: 'none' },
  { type: 'unwrap.set', patch: { padding: 16, rotate: false } },
  { type: 'gather.set', patch: { on: true, size: 512, left: ['cap'] } },
  { type: 'project.set', patch: { size: 512, blind: 'across-x' } },
  { type: 'photo.remove', photo: 'none' },
  { type: 'handoff.set', patch: { specular: true, smaller: 1 } },
  { type: 'print.set', print: STENCIL },
  { type: 'print.set', print: { ...STENCIL, id: 'second', name: 'Second stencil', turn: 12, mirrored: true } },
  { type: 'print.move', print: 'second', by: -1 },
  { type: 'print.remove', print: 'second' },
  { type: 'variant.set', variant: 'pale-one', name: 'Pale' },
  { type: 'variant.edit', variant: 'pale-one', edit: TURNED },
  { type: 'variant.set', variant: 'copied', name: 'Pale too', from: 'pale-one' },
  { type: 'variant.back', variant: 'pale-one', of: 'prints', key: STENCIL.id },
  { type: 'variant.remove', variant: 'copied' },
  { type: 'bake.set', patch: { samples: 4, y: 'down', bits: 16, distances: 'uniform', frontMm: 0.5 } },
  {
    type: 'material.add',
    material: fromLibrary('enamel', 'tin'),
    parts: ['knob'],
  },
  {
    type: 'material.set',
    material: 'tin',
    patch: { roughness: 0.3, layers: layersFrom({ dirt: { share: 0.2, colour: [0, 0, 0], roughness: 1, cover: 0.5 } }) },
  },
  { type: 'material.add', material: { ...fromLibrary('enamel', 'pale'), derived: { from: 'brass', own: ['colour'] } } },
  { type: 'material.follow', material: 'pale', fields: ['colour'] },
  {
    type: 'material.set',
    material: 'tin',
    patch: {
      layers: [
        {
          id: 'painted',
          name: 'Painted',
          on: true,
          opacity: 1,
          look: { roughness: 0.9 },
          mask: [{ join: 'times', inverted: false, field: { kind: 'strokes', soft: 0.4, strokes: [] } }],
        },
      ],
    },
  },
  {
    type: 'material.stroke',
    material: 'tin',
    layer: 'painted',
    field: 0,
    stroke: { part: 'font', erases: false, radius: 4, points: [0, 10, 40, 0, 0, 1, 1] },
  },
  { type: 'material.remove', material: 'tin' },
  { type: 'surface.set', patch: { seed: 9 } },
  { type: 'rig.set', patch: { background: 'white', surround: 0.3, lamps: RIG_DEFAULTS.lamps } },
  { type: 'shot.set', patch: { lensMm: 50, aperture: null, widthPx: 800, tone: 'linear' } },
  { type: 'shot.set', patch: { locked: true } },
  { type: 'shot.set', patch: { locked: false } },
  { type: 'render.set', patch: { until: 'noise', noise: 0.01 } },
  {
    type: 'handoff.set',
    patch: {
      unit: 'cm',
      y: 'down',
      include: { glb: true, obj: false, textures: true, layout: true, picture: true, sheet: true, levels: false },
    },
  },
  { type: 'waive', waiver: { finding: 'open-rim:chimney', reason: 'a chimney is open', value: 2 } },
  { type: 'unwaive', finding: 'open-rim:chimney' },
  {
    type: 'several',
    what: 'declared two parts open',
    commands: ['chimney', 'font'].map((part) => ({ type: 'part.set', part, patch: { declaredOpen: true } })),
  },
  { type: 'high.pair', part: 'font', high: null },
  { type: 'part.remove', part: 'flame' },
];
