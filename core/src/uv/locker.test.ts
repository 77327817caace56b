import { describe, expect, it } from 'vitest';
import { lockerGlb } from '../../test/locker';
import { readModel } from '../io/read';
import type { Vec3 } from '../maths/vec3';
import { decodeMesh, encodeMesh } from '../mesh/codec';
import type { PolyMesh } from '../mesh/polymesh';
import type { AssetDocument, UnwrapChoices } from '../pipeline/document';
import { formAsset } from '../pipeline/form';
import { documentFromModel } from '../pipeline/import';
import { unwrap, unwrapSettings } from '../pipeline/unwrap';

async function locker(shelves: number) {
  const kept = new Map<string, Uint8Array>();
  const keep = (mesh: PolyMesh): string => {
    kept.set(String(kept.size), encodeMesh(mesh));
    return String(kept.size - 1);
  };
  const load = (blob: string): PolyMesh => decodeMesh(kept.get(blob) as Uint8Array);
  const document = documentFromModel(
    'Tool locker',
    await readModel('locker.glb', await lockerGlb(shelves)),
    { fileName: 'locker.glb', licence: '', note: '' },
    keep,
  );
  document.brief.limits.textureSize = 2048;
  const laid = (choices: Partial<UnwrapChoices> = {}, change: (d: AssetDocument) => AssetDocument = (d) => d) => {
    const d = change({ ...document, unwrap: { ...document.unwrap, padding: 16, ...choices } });
    const formed = formAsset(d, 'low', load);
    return { ...unwrap(formed.parts, unwrapSettings(d)), marks: formed.marks };
  };
  return { document, laid };
}

describe('a locker from elsewhere: two doors, two latches, 64 rivets, no layout', () => {
  it('in one go: few islands, nothing stretched, no hard edge inside one, vertices as hard edges make them, twins once', async () => {
    const { document, laid } = await locker(2);
    expect(document.parts.map((p) => [p.name, p.shape.kind === 'mesh' && p.shape.placements.length])).toEqual(
      expect.arrayContaining([
        [expect.stringContaining('Rivet'), 64],
        [expect.stringContaining('Door'), 2],
      ]),
    );
    const { figures } = laid();
    expect(figures.islands).toBeLessThanOrEqual(60);
    expect(figures).toMatchObject({ folds: 0, overlapTexels: 0, gutter: 16, seams: { hardInsideMm: 0 } });
    // The mirrored latch, and one shelf of two.
    expect(figures.twins).toMatchObject({ shells: 2, mirrored: 1 });
    expect(figures.islands).toBeLessThan(laid({ twins: 'each' }).figures.islands);
    expect(figures.stretchL2).toBeLessThanOrEqual(1.01);
    expect(figures.seams && figures.seams.gpuVertices / figures.seams.forcedVertices).toBeLessThanOrEqual(1.1);
    expect(figures.coverage).toBeGreaterThan(0.75);
    for (const p of figures.parts) expect(p.density / figures.density).toBeCloseTo(1, 2);
  });

  it('its inside at half the density gives the rest more, and is exactly half', async () => {
    const { laid } = await locker(2);
    const [equal, half] = [laid().figures, laid({ unseen: 0.5 }).figures];
    expect(equal.unseenShare).toBeGreaterThan(0.4);
    expect((half.unseenDensity as number) / half.density).toBeCloseTo(0.5, 3);
    // As much as as full a tile would give it, but for what the tile is filled less.
    const won = Math.sqrt((1 / (1 - (equal.unseenShare as number) * 0.75)) * (half.coverage / equal.coverage));
    expect(half.density / equal.density).toBeCloseTo(won, 2);
  });

  it('latches of unlike weight, or with a high mesh of their own, have texels of their own', async () => {
    const { document, laid } = await locker(2);
    const [latch] = document.parts.filter((p) => p.name.startsWith('Latch'));
    const changed = (patch: Partial<typeof latch>) =>
      laid({}, (d) => ({ ...d, parts: d.parts.map((p) => (p.id === latch.id ? { ...p, ...patch } : p)) })).figures.twins;
    expect(changed({})).toMatchObject({ shells: 2, mirrored: 1 });
    // The shelf is still one.
    for (const patch of [
      { weight: 2 },
      { pxPerCm: 9 },
      { material: null },
      { high: { blob: 'x', triangles: 9, name: 'high', pairedBy: 'hand' as const } },
    ])
      expect(changed(patch)).toMatchObject({ shells: 1, mirrored: 0 });
  });

  it('the grain of its doors runs up the tile, and a second layout has every island once more', async () => {
    const { document, laid } = await locker(2);
    const grained = (d: AssetDocument): AssetDocument => ({
      ...d,
      parts: d.parts.map((p) => (p.name.startsWith('Door') ? { ...p, grain: 'length' } : p)),
    });
    const { figures } = laid({ second: { on: true, size: 1024, padding: 8 } }, grained);
    const doors = document.parts.filter((p) => p.name.startsWith('Door')).map((p) => p.id);
    for (const p of figures.parts) expect(p.grain?.worst ?? 0).toBeLessThanOrEqual(doors.includes(p.id) ? 2 : 0);
    expect(figures.parts.filter((p) => p.grain)).toHaveLength(1);
    expect(figures.second).toMatchObject({ islands: laid({ twins: 'each' }).figures.islands, overlapTexels: 0, folds: 0 });
  });

  it('a seam drawn on a door is on the doors of a newer file, and one on a shelf that is gone is said to be lost', async () => {
    const [older, newer] = [await locker(2), await locker(3)];
    const door = older.document.parts.find((p) => p.name.startsWith('Door'))?.id as string;
    const points: Vec3[] = [
      [-98, 0, 8],
      [98, 880, 8],
    ];
    const drawnOn =
      (part: string, places: Vec3[]) =>
      (d: AssetDocument): AssetDocument => ({
        ...d,
        parts: d.parts.map((p) => (p.id === part ? { ...p, seams: [{ id: 's', how: 'open', points: places }] } : p)),
      });
    const drawn = drawnOn(door, points);
    for (const { laid } of [older, newer]) {
      const [before, after] = [laid(), laid({}, drawn)];
      expect(after.marks.find((m) => m.part === door)?.lostSeams ?? []).toEqual([]);
      // Across the front of the door.
      expect(after.figures.islands).toBe(before.figures.islands + 1);
      const across = 2 * Math.hypot(196, 880);
      expect((after.figures.seams?.lengthMm ?? 0) - (before.figures.seams?.lengthMm ?? 0)).toBeCloseTo(across, 0);
    }
    // Along the front of the third shelf: of 900 mm, three quarters up.
    const body = older.document.parts.find((p) => p.name.startsWith('Body'))?.id as string;
    const shelf = drawnOn(body, [
      [-189, 683, 120],
      [189, 683, 120],
    ]);
    const lost = (marks: ReturnType<typeof newer.laid>['marks']) => marks.find((m) => m.part === body)?.lostSeams ?? [];
    expect(lost(newer.laid({}, shelf).marks)).toEqual([]);
    expect(lost(older.laid({}, shelf).marks)).toEqual(['s']);
  });
});
