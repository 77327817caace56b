import { briefFor } from '@wellmorph/core/brief/brief';
import type { EngravedRing } from '@wellmorph/core/form/profile';
import type { Step } from '@wellmorph/core/form/steps/index';
import { type AssetDocument, type Material, newDocument } from '@wellmorph/core/pipeline/document';
import { BRASS, FLAME, GLASS, IRON } from './materials';
import { part, profileOf } from './written';

/** Materials of the lantern and the gauge. */
export const DEMO_MATERIALS: Material[] = [BRASS, IRON, GLASS, FLAME];

const ring = (segment: string, at: number, width: number, depth: number): EngravedRing => ({ segment, at, width, depth });

/** The storm lantern of the Pellamere Light: 112 mm wide, 268 mm high. */
export function stormLantern(): AssetDocument {
  const brief = { ...briefFor('game'), sizeMm: [112, 268, 112] as [number, number, number], deadline: '2026-12-04' };
  brief.limits = { ...brief.limits, triangles: 5000 };
  const document = newDocument('Storm lantern', brief);
  const font: Step = {
    kind: 'turned',
    id: 'font-turned',
    name: 'Font and base',
    enabled: true,
    body: 'solid',
    edgeRadius: 1.6,
    profile: profileOf(
      [
        [56, 0, 1.2],
        [56, 9, 2],
        [52, 13],
        [49, 50],
        [41, 64],
        [34, 68],
        [34, 74],
      ],
      [['foot'], ['foot slope'], ['wall'], ['shoulder', 'arc', 1.6], ['neck'], ['collar']],
    ),
    rings: [
      ring('s2', 0.14, 1.8, 1),
      ring('s2', 0.28, 1.8, 1),
      ring('s2', 0.72, 1.8, 1),
      ring('s2', 0.86, 1.8, 1),
      ring('s0', 0.55, 1.6, 0.7),
    ],
  };
  const gallery: Step = {
    kind: 'turned',
    id: 'gallery-turned',
    name: 'Gallery ring',
    enabled: true,
    body: 'wall',
    wall: 2,
    edgeRadius: 0.7,
    profile: profileOf(
      [
        [38.5, 74.3],
        [39.5, 78],
        [39.5, 86],
        [37, 89],
      ],
      [['flare'], ['band'], ['lip']],
    ),
    rings: [ring('s1', 0.3, 1.4, 0.7), ring('s1', 0.7, 1.4, 0.7)],
  };
  const chimney: Step = {
    kind: 'turned',
    id: 'chimney-turned',
    name: 'Chimney',
    enabled: true,
    body: 'wall',
    wall: 2,
    edgeRadius: 0.8,
    profile: profileOf(
      [
        [31, 75],
        [33, 84],
        [30, 168],
      ],
      [['seat'], ['belly', 'arc', 6]],
    ),
    rings: [],
  };
  const cap: Step = {
    kind: 'turned',
    id: 'cap-turned',
    name: 'Cap and vent',
    enabled: true,
    body: 'solid',
    edgeRadius: 1.4,
    profile: profileOf(
      [
        [37, 169.2],
        [42, 172],
        [42, 178, 1],
        [27, 196],
        [24, 199],
        [24, 214],
        [31, 216.5],
        [31, 221, 0.8],
        [14, 232],
        [6, 234],
        [6, 240],
        [0, 242],
      ],
      [
        ['skirt'],
        ['drip edge'],
        ['dome', 'arc', 1.8],
        ['step'],
        ['vent'],
        ['flare'],
        ['crown edge'],
        ['crown', 'arc', 2],
        ['top'],
        ['pin'],
        ['pin top', 'arc', 0.6],
      ],
    ),
    rings: [ring('s4', 0.22, 1.6, 0.8), ring('s4', 0.5, 1.6, 0.8), ring('s4', 0.78, 1.6, 0.8), ring('s1', 0.5, 1.6, 0.7)],
  };
  const guard: Step = {
    kind: 'bar',
    id: 'guard-bar',
    name: 'Guard wire',
    enabled: true,
    radius: 1.5,
    edgeRadius: 0.5,
    path: [
      { id: 'a', x: 44.5, y: 63.5, z: 0 },
      { id: 'b', x: 44.5, y: 96, z: 0, bend: 22 },
      { id: 'c', x: 46.5, y: 142, z: 0, bend: 26 },
      { id: 'd', x: 39.5, y: 171, z: 0 },
    ],
  };
  const bail: Step = {
    kind: 'bar',
    id: 'bail-bar',
    name: 'Bail',
    enabled: true,
    radius: 2,
    edgeRadius: 0.6,
    path: [
      { id: 'a', x: 0, y: 180.5, z: 43.5 },
      { id: 'b', x: 0, y: 188, z: 50, bend: 8 },
      { id: 'c', x: 0, y: 236, z: 46, bend: 24 },
      { id: 'd', x: 0, y: 270.6, z: 0, bend: 22 },
      { id: 'e', x: 0, y: 236, z: -46, bend: 24 },
      { id: 'f', x: 0, y: 188, z: -50, bend: 8 },
      { id: 'g', x: 0, y: 180.5, z: -43.5 },
    ],
  };
  const knob: Step = {
    kind: 'turned',
    id: 'knob-turned',
    name: 'Burner knob',
    enabled: true,
    body: 'solid',
    edgeRadius: 0.7,
    profile: profileOf(
      [
        [1.8, 0],
        [1.8, 12],
        [6.5, 12.6],
        [6.5, 16.6],
        [0, 17.4],
      ],
      [['stem'], ['back'], ['rim'], ['face', 'arc', 0.5]],
    ),
    rings: [ring('s2', 0.5, 1.2, 0.6)],
  };
  const flame: Step = {
    kind: 'turned',
    id: 'flame-turned',
    name: 'Flame',
    enabled: true,
    body: 'solid',
    edgeRadius: 0.4,
    profile: profileOf(
      [
        [0, 90],
        [5.6, 100],
        [0, 124],
      ],
      [
        ['root', 'arc', 2.4],
        ['tongue', 'arc', 2],
      ],
    ),
    rings: [],
  };
  const guards: Step = {
    kind: 'array',
    id: 'guard-array',
    name: 'Four round the axis',
    enabled: true,
    count: 4,
    x: 0,
    z: 0,
    startDegrees: 45,
  };
  return {
    ...document,
    materials: DEMO_MATERIALS,
    parts: [
      part('font', 'Font and base', 'body', 'brass', [font]),
      part('gallery', 'Gallery ring', 'body', 'brass', [gallery]),
      part('chimney', 'Chimney', 'glass', 'glass', [chimney], { declaredOpen: true }),
      part('guards', 'Guard wires', 'body', 'iron', [guard, guards]),
      part('cap', 'Cap and vent', 'body', 'brass', [cap]),
      part('bail', 'Bail', 'body', 'iron', [bail]),
      part('knob', 'Burner knob', 'fastener', 'brass', [knob], { move: [34.4, 71, 0], turnDegrees: [0, 0, -90] }),
      part('flame', 'Flame', 'flame', 'flame', [flame], { weight: 0.6 }),
    ],
    sources: [],
  };
}
