import type { PolyMesh } from '../../src/mesh/polymesh';
import { triangleCount } from '../../src/mesh/polymesh';
import { unwrap } from '../../src/pipeline/unwrap';
import { keptIslands } from '../../src/uv/keep';
import { measureLayout } from '../../src/uv/measure';
import { looksAt } from '../../src/uv/seams/looks';
import { measureSeams } from '../../src/uv/seams/measure';
import { median } from '../calibrate';
import { theirs } from './library';
import { type BenchMesh, demoMeshes, madeUpMeshes, openMeshes } from './meshes';
import { type Score, score } from './score';

const SIZE = 1024;
const PADDING = 8;

const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1] as const;

/** Laid out by Wellmorph as an import is: nothing known but the triangles. What it takes to measure the layout is not counted: the library doesn’t. */
export function ours(mesh: PolyMesh, whole = false): { mesh: PolyMesh; seconds: number } {
  const began = performance.now();
  const laid = unwrap([{ id: 'a', name: 'a', mesh, placements: [IDENTITY as never] }], {
    size: SIZE,
    padding: PADDING,
    seamAngle: 50,
    rotate: true,
    weights: {},
    regions: {},
    whole,
  });
  const done = performance.now();
  const made = laid.parts[0].mesh;
  measureLayout(laid.parts, SIZE);
  measureSeams(made, null, 1, { seamAngle: 50 });
  return { mesh: made, seconds: (done - began - (performance.now() - done)) / 1000 };
}

const scored = (mesh: PolyMesh): Score => score(mesh, SIZE, looksAt([{ mesh, placements: [IDENTITY as never] }])[0]);

/** Both layouts of every mesh of the bench, by one scorer. */
export async function atlasTable(only?: string): Promise<void> {
  const all = [...madeUpMeshes(), ...(await openMeshes()), ...(await demoMeshes())].filter(
    (m) => !only || m.name.includes(only) || m.of === only,
  );
  const rows: { m: BenchMesh; a: Score; b: Score; c: Score; seconds: [number, number] }[] = [];
  const cell = (x: number | string, n: number) => String(x).padStart(n);
  console.log(
    `${'mesh'.padEnd(26)} triangles | covered %, theirs packed by ours | L² | islands | seam, shown | vertices | gap | density, least : greatest | flips, twice | seconds   (ours / theirs)`,
  );
  for (const m of all) {
    const mine = ours(m.mesh);
    const other = await theirs(m.mesh, SIZE, PADDING / 2);
    const [a, b] = [scored(mine.mesh), scored(other.mesh)];
    // Their islands, packed by ours.
    const again = ours(keptIslands(other.mesh), true);
    const c = scored(again.mesh);
    rows.push({ m, a, b, c, seconds: [mine.seconds, other.seconds] });
    console.log(
      `${m.name.padEnd(26)} ${cell(triangleCount(m.mesh), 9)} | ${cell((100 * a.coverage).toFixed(1), 5)} ${cell((100 * b.coverage).toFixed(1), 5)} ${cell((100 * c.coverage).toFixed(1), 5)} | ${a.l2.toFixed(3)} ${b.l2.toFixed(3)} | ${cell(a.islands, 4)} ${cell(b.islands, 4)} | ${cell(a.seam.toFixed(1), 5)} ${cell(b.seam.toFixed(1), 5)}, ${cell(a.shown.toFixed(1), 5)} ${cell(b.shown.toFixed(1), 5)} | ${cell(a.vertices, 6)} ${cell(b.vertices, 6)} | ${cell(a.gap, 2)} ${cell(b.gap, 2)} | ${a.even.toFixed(2)} ${b.even.toFixed(2)} | ${a.flips},${a.twice} ${b.flips},${b.twice} | ${mine.seconds.toFixed(2)} ${other.seconds.toFixed(2)}, ${again.seconds.toFixed(2)} packing theirs`,
    );
  }
  const over = (of: (r: (typeof rows)[number]) => number) => median(rows.map(of));
  console.log(
    `median: covered ${(100 * over((r) => r.a.coverage - r.b.coverage)).toFixed(1)} points more (theirs packed by ours ${(100 * over((r) => r.c.coverage - r.b.coverage)).toFixed(1)}, more on ${rows.filter((r) => r.c.coverage > r.b.coverage).length} of ${rows.length}), L² ${over((r) => r.a.l2 - r.b.l2).toFixed(4)} more, seam × ${over((r) => r.a.seam / r.b.seam).toFixed(2)}, shown × ${over((r) => r.a.shown / r.b.shown).toFixed(2)}, islands × ${over((r) => r.a.islands / r.b.islands).toFixed(2)}, time × ${over((r) => r.seconds[0] / r.seconds[1]).toFixed(2)}`,
  );
}
