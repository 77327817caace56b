import type { Finding } from '../inspect/finding';
import { followTravel, Placed, type Standing, standing, type TravelFound } from '../inspect/relations';
import { figure, millimetres } from '../units/lengths';
import { type AssetDocument, type Relation, WANTED } from './document';
import type { FormResult, PartMesh } from './form';
import type { MeshCache } from './mesh-cache';

/** How the parts of an asset were found to stand and to move. */
export interface Standings {
  relations: (Standing & { id: string; met: boolean })[];
  travels: (TravelFound & { part: string })[];
}

export const wantedOf = (document: AssetDocument, a: string, b: string): Relation | undefined =>
  document.relations?.find((r) => (r.a === a && r.b === b) || (r.a === b && r.b === a));

/** Whether two parts stand as they are wanted to. */
export function isMet(r: Relation, s: Standing): boolean {
  switch (r.wanted) {
    case 'gap':
      return s.sunk === 0 && Math.abs(s.gap - r.mm) <= r.tolerance;
    case 'resting':
      return s.gap <= r.tolerance && s.sunk <= r.tolerance;
    case 'sunk':
      return Math.abs(s.sunk - r.mm) <= r.tolerance;
    case 'free':
      return true;
  }
}

/** Measures every wanted relation and follows every travel. */
export function standingsOf(document: AssetDocument, parts: readonly PartMesh[], memory: MeshCache): Standings {
  const made = new Map<string, Placed>();
  const placed = (p: PartMesh): Placed => {
    const known = made.get(p.id) ?? memory.of(p.mesh, `placed ${JSON.stringify(p.placements)}`, () => new Placed(p.mesh, p.placements));
    made.set(p.id, known);
    return known;
  };
  const find = (id: string) => parts.find((p) => p.id === id);
  const relations = (document.relations ?? []).flatMap((r) => {
    const [a, b] = [find(r.a), find(r.b)];
    if (!a || !b) return [];
    const where = JSON.stringify(['stand', a.placements, b.placements]);
    const found = memory.ofPair(a.mesh, b.mesh, where, () => standing(placed(a), placed(b)));
    return [{ ...found, id: r.id, met: isMet(r, found) }];
  });
  const travels = document.parts.flatMap((p) => {
    const own = p.travel && find(p.id);
    if (!own || !p.travel) return [];
    const others = parts.filter((o) => o.id !== p.id && wantedOf(document, o.id, p.id)?.wanted !== 'free');
    const about = JSON.stringify(['travel', p.travel, own.placements, others.map((o) => [o.id, memory.numberOf(o.mesh), o.placements])]);
    const { travel } = p;
    const found = memory.of(own.mesh, about, () =>
      followTravel(
        placed(own),
        others.map((o) => ({ name: o.id, placed: placed(o) })),
        travel,
      ),
    );
    return [{ ...found, part: p.id }];
  });
  return { relations, travels };
}

/** How two parts stand, in words: `a gap of 0.4 mm`. */
export const standingWords = (s: Standing): string =>
  s.sunk > 0
    ? `sunk in by ${millimetres(s.sunk, 3)}`
    : s.gap === 0
      ? 'touching'
      : Number.isFinite(s.gap)
        ? `a gap of ${millimetres(s.gap, 3)}`
        : 'apart';

/** Parts nearer than this, or deeper in each other by less, are taken to be meant to touch, mm. */
const NEARLY = 0.05;

/**
 * What is proposed for two parts that stand near each other: those that nearly touch rest on each other, others keep their gap at a round
 * figure, or stay sunk in as they are.
 */
export function proposedFor(s: Pick<Standing, 'gap' | 'sunk'>): Pick<Relation, 'wanted' | 'mm' | 'tolerance'> {
  if (s.gap <= NEARLY && s.sunk <= NEARLY) return { wanted: 'resting', mm: 0, tolerance: 0.01 };
  const neat = (mm: number) => Math.max(1, Math.round(10 * mm)) / 10;
  return s.sunk > 0 ? { wanted: 'sunk', mm: neat(s.sunk), tolerance: 0.05 } : { wanted: 'gap', mm: neat(s.gap), tolerance: 0.05 };
}

/** What is wanted, in words: `a gap of 0.4 mm`. */
export const wantedWords = (r: Pick<Relation, 'wanted' | 'mm'>): string =>
  r.wanted === 'gap'
    ? `${WANTED.gap} of ${millimetres(r.mm, 3)}`
    : r.wanted === 'sunk'
      ? `${WANTED.sunk} by ${millimetres(r.mm, 3)}`
      : WANTED[r.wanted];

/** Relations that are not as wanted, and travels that run into something. */
export function standingFindings(document: AssetDocument, { relations, travels }: Standings): Finding[] {
  const name = (id: string) => document.parts.find((p) => p.id === id)?.name ?? 'a part';
  const out: Finding[] = [];
  for (const s of relations) {
    const r = document.relations?.find((x) => x.id === s.id);
    if (!r || s.met) continue;
    out.push({
      id: `relation:${r.id}`,
      kind: 'relation',
      severity: 'error',
      part: r.a,
      partName: name(r.a),
      value: s.sunk > 0 ? -s.sunk : s.gap,
      unit: 'mm',
      limit: r.wanted === 'sunk' ? -r.mm : r.wanted === 'gap' ? r.mm : 0,
      message: `${name(r.a)} and ${name(r.b)}: ${standingWords(s)}, wanted ${wantedWords(r)}.`,
      why: 'What should move binds, and what should touch shows a dark line or flickers.',
      where: [s.at],
      fixes: [],
    });
  }
  for (const t of travels) {
    const part = document.parts.find((p) => p.id === t.part);
    if (!t.clash || !part?.travel) continue;
    const turns = part.travel.kind === 'turn';
    const far = (x: number, digits: number) => (turns ? `${figure(x, digits)}°` : millimetres(x, digits));
    out.push({
      id: `travel:${t.part}`,
      kind: 'travel',
      severity: 'error',
      part: t.part,
      partName: part.name,
      value: t.clash.at,
      unit: turns ? '°' : 'mm',
      limit: part.travel.to,
      message: `${part.name} runs into ${name(t.clash.part)} at ${far(t.clash.at, 2)} of its way to ${far(part.travel.to, 1)}.`,
      why: 'Shown open or in motion, one goes through the other.',
      where: [t.clash.place],
      fixes: [],
    });
  }
  return out;
}

/** What steps did otherwise than asked. */
export function noteFindings(document: AssetDocument, formed: FormResult): Finding[] {
  return formed.steps.flatMap((s) =>
    s.notes.map((n, i): Finding => {
      const part = document.parts.find((x) => x.id === s.part);
      return {
        id: `note:${s.step}:${n.code}${i > 0 ? `:${i}` : ''}`,
        kind: 'note',
        severity: 'warning',
        part: s.part,
        partName: part?.name ?? '',
        value: n.value,
        unit: n.unit,
        limit: n.limit,
        message: n.message,
        why: 'The step stands, but not as it was asked for.',
        where: n.where ?? [],
        fixes: [],
      };
    }),
  );
}
