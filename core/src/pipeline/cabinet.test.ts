import { beforeAll, describe, expect, it } from 'vitest';
import { boxOf, cabinet, KNOB, TOP, WORN_MM } from '../../test/cabinet';
import type { Vec3 } from '../maths/vec3';
import { distance } from '../maths/vec3';
import { triangleArea } from '../mesh/measures';
import { triangleCount } from '../mesh/polymesh';
import { boardsOf, emptyPlaces, fillPlaces } from '../surface/layers/places';
import { strokeFrom } from '../surface/layers/stroke-grid';
import { POINT, type Stroke } from '../surface/layers/strokes';
import type { Layer } from '../surface/material';
import { applyCommand, type Command } from './commands/index';
import type { AssetDocument } from './document';
import { formAsset, type PartMesh } from './form';
import { composeAsset, surfaceVerdict } from './surface';
import { unwrap, unwrapSettings } from './unwrap';

const done = (d: AssetDocument, ...commands: Command[]) => commands.reduce((now, c) => applyCommand(now, c).document, d);
const none = () => {
  throw new Error('no stored mesh');
};
const worn: Layer = {
  id: 'worn',
  name: 'Worn edges',
  on: true,
  opacity: 1,
  look: { roughness: 0.9 },
  mask: [{ join: 'times', inverted: false, field: { kind: 'edges', width: WORN_MM, broken: 0.4 } }],
};
/** Every material with the same wear and nothing else that has edges. */
const wornAll = done(
  cabinet(),
  ...['oak', 'walnut', 'metal'].map((material): Command => {
    const own =
      cabinet()
        .materials.find((m) => m.id === material)
        ?.layers.filter((l) => l.mask[0]?.field.kind !== 'edges') ?? [];
    return { type: 'material.set', material, patch: { layers: [...own, worn] } };
  }),
);
const formed = (d: AssetDocument) => formAsset(d, 'low', none).parts;
const laidOut = (d: AssetDocument) => unwrap(formed(d), unwrapSettings(d)).parts;
/** Where the texels of parts lie, and what of a set is on them. */
function lying(d: AssetDocument, laid: readonly PartMesh[], size: number) {
  const boards = boardsOf(laid);
  const places = emptyPlaces(size, 0, size);
  fillPlaces(laid, boards, places);
  const made = composeAsset(d, laid, {}, size, () => 0);
  return { ...made, places, partOf: (i: number) => boards.shells[places.shell[i] - 1]?.part ?? -1 };
}

describe('a cabinet of two woods, brushed metal and a smudged pane', () => {
  let laid: PartMesh[];
  let whole: ReturnType<typeof lying>;
  beforeAll(() => {
    laid = laidOut(wornAll);
    whole = lying(wornAll, laid, 2048);
  });
  const partArea = (id: string) => {
    const mesh = laid.find((p) => p.id === id)?.mesh as PartMesh['mesh'];
    return Array.from({ length: triangleCount(mesh) }, (_, t) => triangleArea(mesh, t)).reduce((a, b) => a + b, 0);
  };

  it('is worn in a line of its width on knobs of 20 mm and on a top of 1 m alike, by the area it takes along their edges', () => {
    // Oak: the top and two sides; metal: two knobs, each a cylinder with two rims of a polygon’s length.
    const oak = [boxOf(...TOP), boxOf(20, 700, 380), boxOf(20, 700, 380)];
    const share = (id: string) =>
      whole.figures.composed.materials.find((m) => m.id === id)?.layers.find((l) => l.id === 'worn')?.share ?? 0;
    const wide = (share('oak') * oak.reduce((s, b) => s + b.area, 0)) / oak.reduce((s, b) => s + b.edges, 0);
    expect(wide).toBeGreaterThan(0.5);
    expect(wide).toBeLessThan(1.5);
    const rims = 2 * 2 * Math.PI * KNOB.diameter;
    const onKnobs = (share('metal') * 2 * partArea('knob-l')) / rims;
    expect(onKnobs).toBeGreaterThan(0.5);
    expect(onKnobs).toBeLessThan(1.5);
    expect(onKnobs / wide).toBeGreaterThan(0.75);
    expect(onKnobs / wide).toBeLessThan(1.3);
  });

  it('leaves flats alone: of what lies 3 mm from every edge at most a thousandth is worn', () => {
    // Worn wood is given a metal’s place in the picture, which no other layer of it has.
    const marked = done(wornAll, {
      type: 'material.set',
      material: 'oak',
      patch: { layers: [{ ...worn, look: { metallic: 1 } }] },
    });
    const { set, places, partOf } = lying(marked, laid, 1024);
    const top = laid.findIndex((p) => p.id === 'top');
    const [w, h, d] = TOP;
    let [flat, bad] = [0, 0];
    for (let i = 0; i < 1024 * 1024; i++) {
      if (partOf(i) !== top) continue;
      const at = [0, 1, 2].map((k) => places.position[3 * i + k]);
      const toEdge = [w / 2 - Math.abs(at[0]), Math.min(at[1], h - at[1]), d / 2 - Math.abs(at[2])].sort((a, b) => a - b)[1];
      if (toEdge < 3) continue;
      flat++;
      bad += set.orm[3 * i + 2] / 255;
    }
    expect(flat).toBeGreaterThan(50_000);
    expect(bad / flat).toBeLessThanOrEqual(0.001);
  });

  it('has no two fronts alike, and no texel that real surfaces don’t have', () => {
    const { set, places, partOf } = whole;
    const tone = ['front-l', 'front-r'].map((id) => {
      const part = laid.findIndex((p) => p.id === id);
      // By place on the board, in squares of 8 mm, what faces the front.
      const cells = new Map<number, [number, number]>();
      for (let i = 0; i < 2048 * 2048; i++) {
        if (partOf(i) !== part || places.normal[3 * i + 2] < 0.9) continue;
        const key = Math.floor((places.position[3 * i] + 300) / 8) * 1000 + Math.floor(places.position[3 * i + 1] / 8);
        const [n, sum] = cells.get(key) ?? [0, 0];
        cells.set(key, [n + 1, sum + set.baseColour[3 * i]]);
      }
      return cells;
    });
    const both = [...tone[0]].flatMap(([key, [n, sum]]) => {
      const other = tone[1].get(key);
      return other ? [[sum / n, other[1] / other[0]]] : [];
    });
    expect(both.length).toBeGreaterThan(1000);
    const [ma, mb] = [0, 1].map((k) => both.reduce((s, v) => s + v[k], 0) / both.length);
    const [va, vb] = [0, 1].map((k) => both.reduce((s, v) => s + (v[k] - [ma, mb][k]) ** 2, 0));
    const alike = both.reduce((s, [a, b]) => s + (a - ma) * (b - mb), 0) / Math.sqrt(va * vb);
    expect(Math.abs(alike)).toBeLessThan(0.4);
    expect(surfaceVerdict(whole.figures).level).toBe('ok');
    for (const [name, share] of Object.entries(whole.figures.validity)) if (name !== 'sound') expect(share, name).toBe(0);
  });

  it('has smudges on its pane: rough where fingers were, clear elsewhere', () => {
    const pane = laid.findIndex((p) => p.id === 'pane');
    const rough: number[] = [];
    for (let i = 0; i < 2048 * 2048; i++) if (whole.partOf(i) === pane) rough.push(whole.set.orm[3 * i + 1] / 255);
    rough.sort((a, b) => a - b);
    expect(rough[Math.floor(0.3 * rough.length)]).toBeLessThan(0.06);
    expect(rough[Math.floor(0.95 * rough.length)]).toBeGreaterThan(0.15);
  });
});

const SIDES = 'knob-l-body.sides';

describe('a stroke by hand', () => {
  const painted: Layer = {
    id: 'paint',
    name: 'Painted',
    on: true,
    opacity: 1,
    look: { metallic: 1 },
    mask: [{ join: 'times', inverted: false, field: { kind: 'strokes', soft: 0.05, strokes: [] } }],
  };
  const marked = done(
    cabinet(),
    ...['oak', 'walnut', 'metal'].map((material): Command => ({ type: 'material.set', material, patch: { layers: [painted] } })),
  );
  /** A stroke through places of a part as a hand would draw it: on the faces nearest to them. */
  const drawn = (parts: readonly PartMesh[], part: string, at: readonly Vec3[], normal: (p: Vec3) => Vec3, radius: number): Stroke => {
    const mesh = parts.find((p) => p.id === part)?.mesh as PartMesh['mesh'];
    const middle = (f: number): Vec3 => {
      const sum = [0, 0, 0];
      const n = mesh.faceStart[f + 1] - mesh.faceStart[f];
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
        for (let k = 0; k < 3; k++) sum[k] += mesh.positions[3 * mesh.faceVert[c] + k] / n;
      return [sum[0], sum[1], sum[2]];
    };
    const faces = at.map((p) => {
      let best = 0;
      for (let f = 1; f + 1 < mesh.faceStart.length; f++) if (distance(middle(f), p) < distance(middle(best), p)) best = f;
      return best;
    });
    return strokeFrom(mesh, { part, erases: false, radius, faces, alone: false, points: at.flatMap((p) => [...p, ...normal(p), 1]) });
  };
  /** The middle of what is painted on a part and how large it is, mm and mm²; by the texels of a set. */
  const found = (d: AssetDocument, part: string, size = 1024) => {
    const laid = laidOut(d);
    const { set, places, partOf } = lying(d, laid, size);
    const which = laid.findIndex((p) => p.id === part);
    const sum = [0, 0, 0];
    let [weight, texel] = [0, 0];
    for (let i = 0; i < size * size; i++) {
      if (partOf(i) !== which) continue;
      const a = (set.orm[3 * i + 2] / 255) * places.footprint[i] ** 2;
      weight += a;
      texel = Math.max(texel, places.footprint[i]);
      for (let k = 0; k < 3; k++) sum[k] += a * places.position[3 * i + k];
    }
    return { at: [sum[0] / weight, sum[1] / weight, sum[2] / weight] as Vec3, area: weight, texel };
  };

  it('stays within a texel of its place in a new layout, and covers what it did', () => {
    const stroke = drawn(
      formed(marked),
      'top',
      [
        [-300, 24, -80],
        [-120, 24, 60],
        [90, 24, -40],
      ],
      () => [0, 1, 0],
      30,
    );
    const d = done(marked, { type: 'material.stroke', material: 'oak', layer: 'paint', field: 0, stroke });
    const anew = done(d, { type: 'unwrap.set', patch: { padding: 16 } }, { type: 'part.set', part: 'top', patch: { weight: 0.5 } });
    const [a, b] = [found(d, 'top'), found(anew, 'top')];
    expect(a.area).toBeGreaterThan(20_000);
    expect(distance(a.at, b.at)).toBeLessThan(Math.max(a.texel, b.texel));
    expect(b.area / a.area).toBeCloseTo(1, 1);
    // Another size of the set: the same again.
    const half = found(d, 'top', 512);
    expect(distance(a.at, half.at)).toBeLessThan(half.texel);
  });

  it('goes along when its part gets other counts and another size', () => {
    const r = KNOB.diameter / 2;
    const round = (degrees: number): Vec3 => [r * Math.cos((degrees * Math.PI) / 180), 7, r * Math.sin((degrees * Math.PI) / 180)];
    const out = (p: Vec3): Vec3 => [p[0] / r, 0, p[2] / r];
    const counted = (sides: number, d: AssetDocument) => {
      const made = done(d, { type: 'form.counts', counts: { ...d.form.counts, [SIDES]: sides }, triangles: 0 });
      const mesh = formed(made).find((p) => p.id === 'knob-l')?.mesh as PartMesh['mesh'];
      expect(mesh.positions.length / 3).toBe(2 * sides + 2);
      return made;
    };
    const stroke = drawn(formed(marked), 'knob-l', [round(20), round(35), round(50)], out, 3);
    expect(stroke.on?.patches.length).toBeGreaterThan(0);
    const d = done(marked, { type: 'material.stroke', material: 'metal', layer: 'paint', field: 0, stroke });
    const a = found(counted(24, d), 'knob-l');
    const b = found(counted(36, d), 'knob-l');
    expect(a.area).toBeGreaterThan(10);
    expect(distance(a.at, b.at)).toBeLessThan(Math.max(a.texel, b.texel));
    // Twice as high, it is in the middle of it as it was.
    const tall = structuredClone(d);
    const shape = tall.parts.find((p) => p.id === 'knob-l')?.shape;
    if (shape?.kind !== 'recipe' || shape.steps[0].kind !== 'turned') throw new Error('the knob is turned');
    shape.steps[0].profile.points[1].y = 2 * KNOB.high;
    expect(found(tall, 'knob-l').at[1]).toBeCloseTo(2 * a.at[1], 0);
    expect(stroke.points.length % POINT).toBe(0);
  });
});
