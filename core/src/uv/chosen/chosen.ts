import { at, type Vec3 } from '../../maths/vec3';
import { edgeValence } from '../../mesh/connectivity';
import type { PolyMesh } from '../../mesh/polymesh';
import { type Chart, matchArea, rimsOf } from '../flatten/chart';
import { folds, rimsCross } from '../flatten/check';
import type { Flattening, Laid } from '../flatten/flattening';
import { FaceFinder } from '../hand/finder';
import { StretchSum } from '../stretch';
import type { ChosenMethod } from '../words';
import type { ChoiceResult, FlatChoice, Refusal } from './choices';
import { type Eye, type Mapped, roundBall, roundCylinder, type Surface, seenBy, seenFrom, sixSides } from './projections';
import { toGrid, toRectangle } from './straight';

/** A choice for one mesh, with the camera where it is laid through one. */
export type ResolvedChoice = Omit<FlatChoice, 'part' | 'meant'> & { eye?: Eye };

/** So many places of faces that were refused are said. */
const PLACES = 10;
const UP: Vec3 = [0, 1, 0];

/** Methods that map every face by itself: they can take a whole part, and cut it as they need. */
const maps = (method: ChosenMethod): boolean => ['direction', 'shot', 'sides', 'cylinder', 'sphere'].includes(method);

/** Faces laid as chosen, and those that are left to be laid like all others. */
interface LaidAsChosen {
  islands: Laid[];
  left: number[];
}

/** What somebody chose for a mesh, and what came of it. */
export class Chosen {
  /** Place of the choice for the whole part; the last of them counts. */
  readonly part: boolean;
  /** It cuts the part as it needs. */
  readonly mapsPart: boolean;
  /** The faces that the others are at. */
  readonly faces: number[];
  private readonly whole: number;
  private readonly of = new Map<number, number>();
  private readonly tallies: Tally[];

  constructor(
    private readonly mesh: PolyMesh,
    private readonly choices: readonly ResolvedChoice[],
  ) {
    this.whole = choices.findLastIndex((c) => !c.at);
    this.part = this.whole >= 0;
    this.mapsPart = this.part && maps(choices[this.whole].method);
    this.tallies = choices.map(() => new Tally());
    const finder = choices.some((c) => c.at) ? new FaceFinder(mesh) : null;
    for (const [i, c] of choices.entries()) {
      const t = c.at && finder ? finder.at(c.at) : -1;
      if (t >= 0) this.of.set(mesh.triangleFace[t], i);
      else if (c.at) this.tallies[i].lost = true;
    }
    this.faces = [...this.of.keys()];
  }

  get results(): ChoiceResult[] {
    return this.tallies.map((t) => t.result(this.mesh));
  }

  /** The region as it was chosen for it; null where nothing was. */
  lay(work: Flattening, faces: readonly number[], looks?: ArrayLike<number>): LaidAsChosen | null {
    const own = faces.find((f) => this.of.has(f));
    const index = own !== undefined ? (this.of.get(own) as number) : this.whole;
    if (index < 0) return null;
    const choice = this.choices[index];
    const tally = this.tallies[index];
    const laid = maps(choice.method) ? this.mapped(work, faces, choice, tally, looks) : this.reshaped(work, faces, choice, tally);
    for (const island of laid.islands) tally.add(island);
    return laid;
  }

  /** Each face mapped by itself, and cut where the map is torn. */
  private mapped(
    work: Flattening,
    faces: readonly number[],
    choice: ResolvedChoice,
    tally: Tally,
    looks: ArrayLike<number> | undefined,
  ): LaidAsChosen {
    const { normals, centres } = work.graph;
    const map = mapOf({ mesh: this.mesh, normals, centres, looks }, faces, choice);
    const refused = faces.filter((f) => map.sheet[f] < 0);
    tally.refuse('away', refused);
    work.cutBetween(faces, map.sheet);
    this.cutTorn(work, faces, map);
    const out: LaidAsChosen = { islands: [], left: refused };
    const waiting = work.regions(faces.filter((f) => map.sheet[f] >= 0));
    while (waiting.length > 0) {
      const region = waiting.pop() as number[];
      const chart = work.maker.make(region, work.cut);
      const uv = new Float64Array((2 * chart.points.length) / 3);
      for (const [i, c] of chart.corners.entries()) uv.set([map.uv[2 * c], map.uv[2 * c + 1]], 2 * chart.local[i]);
      // A face that isn’t plane can have a triangle that faces away.
      const folded = folds(chart, uv) > 0 ? foldedFaces(work, chart, uv) : [];
      if (folded.length > 0) {
        for (const f of folded) map.sheet[f] = -1;
        tally.refuse('away', folded);
        out.left.push(...folded);
        work.cutBetween(region, map.sheet);
        waiting.push(...work.regions(region.filter((f) => map.sheet[f] >= 0)));
        continue;
      }
      const rims = rimsOf(chart);
      if (!rims || rimsCross(rims.loops, uv)) {
        tally.refuse('over', region);
        out.left.push(...region);
        continue;
      }
      out.islands.push({ chart, uv: matchArea(chart, uv), method: choice.method });
    }
    return out;
  }

  private cutTorn({ graph, cut }: Flattening, faces: readonly number[], { sheet, uv, torn }: Mapped): void {
    const { edges } = graph;
    const apart = (c: number, d: number): boolean => Math.abs(uv[2 * c] - uv[2 * d]) + Math.abs(uv[2 * c + 1] - uv[2 * d + 1]) > torn;
    for (const f of faces) {
      if (sheet[f] < 0) continue;
      for (let c = this.mesh.faceStart[f]; c < this.mesh.faceStart[f + 1]; c++) {
        const e = edges.ofCorner[c];
        if (cut[e] || edgeValence(edges, e) !== 2) continue;
        const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
        // Twins run opposite ways: a starts where b ends.
        if (apart(a, edges.next[b]) || apart(edges.next[a], b)) cut[e] = 1;
      }
    }
  }

  /** Laid as a whole, by its rim or by its angles. */
  private reshaped(work: Flattening, faces: readonly number[], choice: ResolvedChoice, tally: Tally): LaidAsChosen {
    const { method } = choice;
    const none = (why: Refusal, list: readonly number[] = faces): LaidAsChosen => {
      tally.refuse(why, list);
      return { islands: [], left: [...faces] };
    };
    if (method === 'even' || method === 'angles') {
      const laid = work.layOut(faces, method);
      return laid ? { islands: [laid], left: [] } : none(work.disk(faces).rim ? 'folds' : 'rim');
    }
    const { chart, rim } = work.disk(faces);
    if (!rim) return none('rim');
    if (method === 'grid') {
      const { uv, wrong } = toGrid(this.mesh, chart);
      return uv && folds(chart, uv) === 0 ? { islands: [{ chart, uv, method }], left: [] } : none('quads', wrong);
    }
    const uv = toRectangle(chart, rim, method === 'rectangle' ? choice.size : undefined);
    if (!uv) return none('corners');
    return folds(chart, uv) === 0 ? { islands: [{ chart, uv, method }], left: [] } : none('folds', foldedFaces(work, chart, uv));
  }
}

function mapOf(surface: Surface, faces: readonly number[], { method, towards = UP, up, eye }: ResolvedChoice): Mapped {
  if (method === 'cylinder') return roundCylinder(surface, faces, towards);
  if (method === 'sphere') return roundBall(surface, faces, towards);
  if (method === 'sides') return sixSides(surface, faces);
  if (method === 'shot' && eye) return seenBy(surface, faces, eye);
  return seenFrom(surface, faces, towards, up);
}

/** Faces of which a triangle is laid face down. */
function foldedFaces({ maker }: Flattening, chart: Chart, uv: Float64Array): number[] {
  const out: number[] = [];
  let first = 0;
  for (const f of chart.faces) {
    const count = maker.trianglesIn(f);
    const own: Chart = { ...chart, triangles: chart.triangles.subarray(3 * first, 3 * (first + count)) };
    if (folds(own, uv) > 0) out.push(f);
    first += count;
  }
  return out;
}

/** What came of a choice, as it is laid. */
class Tally {
  lost = false;
  private islands = 0;
  private area = 0;
  private readonly stretch = new StretchSum();
  private readonly refusals = new Map<Refusal, number[]>();

  refuse(why: Refusal, faces: readonly number[]): void {
    if (faces.length > 0) this.refusals.set(why, [...(this.refusals.get(why) ?? []), ...faces]);
  }

  add({ chart, uv }: Laid): void {
    this.islands++;
    this.area += this.stretch.addChart(chart, uv);
  }

  result(mesh: PolyMesh): ChoiceResult {
    return {
      islands: this.islands,
      areaMm2: this.area,
      stretchL2: this.stretch.l2,
      stretchLinf: this.stretch.linf,
      refused: [...this.refusals].map(([why, faces]) => ({
        why,
        faces: faces.length,
        places: faces.slice(0, PLACES).map((f) => middle(mesh, f)),
      })),
      ...(this.lost && { lost: true }),
    };
  }
}

function middle(mesh: PolyMesh, f: number): Vec3 {
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  let sum: Vec3 = [0, 0, 0];
  for (let c = from; c < to; c++) {
    const p = at(mesh.positions, mesh.faceVert[c]);
    sum = [sum[0] + p[0], sum[1] + p[1], sum[2] + p[2]];
  }
  return sum.map((x) => Math.round((1e4 * x) / (to - from)) / 1e4) as unknown as Vec3;
}
