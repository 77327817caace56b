import { FormError } from '../../errors';
import { needed } from '../../kit';
import { add, cross, normalise, scale, type Vec3 } from '../../maths/vec3';
import { combine } from '../../mesh/solids';
import { meshTree } from '../../rays/of-mesh';
import { RayQuery } from '../../rays/query';
import { millimetres } from '../../units/lengths';
import { angle, choice, size, spotPicked, words } from '../fields';
import { divided, lettering, textSolid } from '../lettering';
import { patchIndex, type Spot, spotAt } from '../places';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Engraves a line of text into everything above it, or raises it out. Lengths in mm, angles in degrees. */
export interface EngraveStep extends StepBase {
  kind: 'engrave';
  text: string;
  /** Height of a capital. */
  height: number;
  depth: number;
  how: 'recessed' | 'raised';
  turnDegrees: number;
  at?: Spot;
}

/** Longest straight piece along a curve of a letter, in heights, low and high. */
const PIECES = { low: 0.25, high: 0.06 };

export const engrave = {
  kind: 'engrave',
  name: 'engraved text',
  about:
    'Cuts a line of text into the surface where you pick, or raises it, in the typeface that ships with the sheet. By default only in the high mesh, for the bake.',
  fields: [
    words('text', 'Text', { most: 80 }),
    size('height', 'Height of a capital'),
    size('depth', 'Depth'),
    choice('how', 'It is', [
      ['recessed', 'recessed'],
      ['raised', 'raised'],
    ]),
    angle('turnDegrees', 'Turned by'),
    spotPicked('at', 'Middle', { optional: true }),
  ],
  fresh: () => ({ name: 'Text', text: 'PELLAMERE', height: 4, depth: 0.3, how: 'recessed' as const, turnDegrees: 0, in: 'high' as const }),
  needs: ['solids', 'font'],
  words: (s: EngraveStep, length) => `“${s.text}” ${length(s.height, 1)} high`,
  changer: {
    change(step: EngraveStep, mesh, detail, around) {
      if (!step.at) throw new FormError('engrave/spot', `Pick the place of “${step.name}” on the piece.`);
      const spot = spotAt(mesh, patchIndex(mesh), step.at);
      if (!spot) throw new FormError('engrave/lost', `The surface “${step.name}” was placed on is no longer there; pick it again.`);
      const pieces = PIECES[detail.mesh] * step.height;
      const outlines = divided(lettering(needed(around.kit, 'font'), step.text, step.height, pieces), step.height / 2);
      const n = spot.normal;
      const level = Math.abs(n[1]) < 0.95 ? normalise(cross([0, 1, 0], n)) : spot.alongU;
      const turn = (step.turnDegrees * Math.PI) / 180;
      const up0 = cross(n, level);
      const across: Vec3 = add(scale(level, Math.cos(turn)), scale(up0, Math.sin(turn)));
      const up = cross(n, across);
      const query = new RayQuery(meshTree(mesh));
      const reach = Math.max(...outlines.flat().map((p) => Math.hypot(p[0], p[1]))) + step.depth;
      // Along the direction the surface faces in the middle, down to where it really is: text on a curve follows it.
      const heightAt = new Map<string, number>();
      const lie = (p: [number, number]): number => {
        const key = p.join();
        const known = heightAt.get(key);
        if (known !== undefined) return known;
        const o = add(add(spot.point, add(scale(across, p[0]), scale(up, p[1]))), scale(n, reach));
        if (!query.closest(o[0], o[1], o[2], -n[0], -n[1], -n[2], 0, 2 * reach))
          throw new FormError(
            'engrave/edge',
            `“${step.text}” runs over the edge of the surface: make it smaller than ${millimetres(step.height)}, or move it.`,
          );
        const h = reach - query.t;
        heightAt.set(key, h);
        return h;
      };
      const raised = step.how === 'raised';
      const [low, high] = raised ? [-Math.min(step.depth, 0.5), step.depth] : [-step.depth, Math.max(step.depth, 0.2)];
      const solid = textSolid(outlines, low, high, (p, h) =>
        add(add(spot.point, add(scale(across, p[0]), scale(up, p[1]))), scale(n, lie(p) + h)),
      );
      const { mesh: made } = combine(needed(around.kit, 'solids'), mesh, solid, {
        how: raised ? 'join' : 'cut',
        patch: (p) => ownPatch(step, p),
        names: ['What stands above', 'The text'],
      });
      return { mesh: made };
    },
  },
} satisfies StepKind<EngraveStep>;
