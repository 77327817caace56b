import { figure } from '../units/lengths';

/** Terms that several pieces share: one name, the same terms in each of their briefs. */
export interface Family {
  name: string;
  /** Of all pieces in sum. */
  triangles: number;
  memoryMB: number;
  /** The texel density they are to have, within {@link DENSITY_WITHIN}. */
  densityPxPerCm: number;
  /** The day the last of them is due, ISO; none when null. */
  deadline: string | null;
}

/** How far a piece’s density may lie from the family’s, share: more is seen where two stand side by side (common practice, no source). */
export const DENSITY_WITHIN = 0.05;

/** A piece of a family as it is. */
export interface Member {
  id: string;
  name: string;
  triangleLimit: number;
  memoryLimit: number;
  /** As formed and laid out; null where it isn't yet. */
  triangles: number | null;
  density: number | null;
  memoryMB: number;
  deadline: string | null;
}

/** What a family comes to against its terms. */
export interface FamilySum {
  /** Of those that are formed. */
  triangles: number;
  /** What their limits come to. */
  limits: number;
  memoryMB: number;
  /** Sentences about what doesn't keep the terms, worst first. */
  wrong: string[];
}

/** Sums a family up and says what in it does not keep its terms. */
export function familySum(terms: Family, members: readonly Member[]): FamilySum {
  const triangles = members.reduce((n, m) => n + (m.triangles ?? 0), 0);
  const limits = members.reduce((n, m) => n + m.triangleLimit, 0);
  const memoryMB = members.reduce((n, m) => n + m.memoryMB, 0);
  const off = members.filter((m) => m.density !== null && Math.abs(m.density / terms.densityPxPerCm - 1) > DENSITY_WITHIN);
  const late = members.filter((m) => terms.deadline !== null && (m.deadline === null || m.deadline > terms.deadline));
  const names = (list: readonly Member[]): string => list.map((m) => m.name).join(', ');
  return {
    triangles,
    limits,
    memoryMB,
    wrong: [
      ...(triangles > terms.triangles ? [`${figure(triangles - terms.triangles, 0)} triangles over what the family may take.`] : []),
      ...(triangles <= terms.triangles && limits > terms.triangles
        ? [
            `Its pieces’ limits come to ${figure(limits, 0)} triangles, ${figure(limits - terms.triangles, 0)} more than the family may take.`,
          ]
        : []),
      ...(memoryMB > terms.memoryMB ? [`${figure(memoryMB - terms.memoryMB, 1)} MB of texture memory over what the family may take.`] : []),
      ...(off.length > 0
        ? [
            `${names(off)}: ${off.length === 1 ? 'its texel density lies' : 'their texel densities lie'} more than 5 % off ${figure(terms.densityPxPerCm, 1)} px/cm.`,
          ]
        : []),
      ...(late.length > 0 ? [`${names(late)}: due after the family, or on no day.`] : []),
    ],
  };
}

/**
 * Gives a piece another limit and takes the difference from the others, so that the sum stays: from those with the most to spare first,
 * never below what they take now.
 *
 * @returns new limits by piece, only of those that change; null where the others have not so much to spare
 */
export function movedLimits(members: readonly Member[], to: string, triangles: number): Record<string, number> | null {
  const own = members.find((m) => m.id === to);
  if (!own) return null;
  let wanted = triangles - own.triangleLimit;
  const out: Record<string, number> = { [to]: triangles };
  if (wanted === 0) return {};
  const others = members
    .filter((m) => m.id !== to)
    .map((m) => ({ ...m, spare: m.triangleLimit - (m.triangles ?? Math.ceil(m.triangleLimit / 2)) }))
    .sort((a, b) => b.spare - a.spare);
  if (others.length === 0) return out;
  if (wanted < 0) {
    // What it gives goes to the one that has the least.
    const last = others[others.length - 1];
    out[last.id] = last.triangleLimit - wanted;
    return out;
  }
  for (const m of others) {
    const taken = Math.min(wanted, Math.max(0, m.spare));
    if (taken > 0) out[m.id] = m.triangleLimit - taken;
    wanted -= taken;
    if (wanted === 0) return out;
  }
  return null;
}
