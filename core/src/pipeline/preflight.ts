import type { Finding } from '../inspect/finding';
import { figure, millimetres } from '../units/lengths';
import type { LayoutFigures } from '../uv/measure';
import type { BakeFigures } from './bake';
import { cameMaterials, isAllCame, keepsLayouts } from './came';
import { textureMemoryMB } from './delivered';
import { type AssetDocument, canBake, deliveredParts, gatherOf, photographedParts, projectOf } from './document';
import { type GatherFigures, gatherVerdict } from './gather-figures';
import type { Ledger } from './inspect';
import { unprinted } from './prints';
import { type ProjectFigures, projectVerdict } from './project-figures';
import type { RenderFigures } from './render';
import { isAllTextured, type Stage, usedMaterials } from './results';
import { type SurfaceFigures, surfaceVerdict } from './surface';

/** What is known of an asset when it is handed over. `fresh` says which results are of the document as it stands. */
export interface AssetState {
  document: AssetDocument;
  findings: readonly Finding[];
  ledger: Ledger | null;
  fresh: Record<Stage, boolean>;
  layout: LayoutFigures | null;
  bake: BakeFigures | null;
  surface: SurfaceFigures | null;
  render: RenderFigures | null;
  /** The gathered set, where there is one. */
  gather?: { figures: GatherFigures; fresh: boolean } | null;
  /** Photographs laid on, where there are any. */
  project?: { figures: ProjectFigures; fresh: boolean } | null;
  /** What was kept beside it: time spent, and what was left for later. */
  kept?: KeptBeside;
}

/** What it took so far, minutes, the snags that are open and the advice that was taken. */
export interface KeptBeside {
  work: { stage: string; minutes: number }[];
  machineMinutes: number;
  snags: { words: string; minutes: number }[];
  /** What was advised and taken: its words, and the change it came to; the earliest first. */
  advice: { said: string; did: string }[];
}

/** One thing that was looked at before handing over. */
export interface PreflightLine {
  id: string;
  level: 'ok' | 'near' | 'over';
  sentence: string;
  /** Station where it can be mended. */
  stage: 'brief' | 'form' | 'unwrap' | 'bake' | 'surface' | 'light' | 'render' | 'handoff';
}

const NEEDED: Stage[] = ['form', 'unwrap', 'bake', 'surface', 'render'];
const STAGE_NAMES: Record<Stage, string> = { form: 'form', unwrap: 'layout', bake: 'bake', surface: 'map set', render: 'picture' };

/** Looks over every stage before anything leaves the house, worst first. */
export function preflight(state: AssetState): PreflightLine[] {
  const { document, findings, ledger, fresh } = state;
  const lines: PreflightLine[] = [];
  const add = (id: string, level: PreflightLine['level'], stage: PreflightLine['stage'], sentence: string) =>
    lines.push({ id, level, stage, sentence });
  const open = findings.filter((f) => !f.waived);
  const errors = open.filter((f) => f.severity === 'error');
  const warnings = open.filter((f) => f.severity === 'warning');
  const waived = findings.filter((f) => f.waived);
  if (errors.length > 0)
    add('errors', 'over', 'form', `${errors.length} finding${errors.length > 1 ? 's' : ''} still wrong: ${errors[0].message}`);
  if (warnings.length > 0)
    add('warnings', 'near', 'form', `${warnings.length} finding${warnings.length > 1 ? 's' : ''} to look at: ${warnings[0].message}`);
  if (open.length === 0 || errors.length + warnings.length === 0) add('findings', 'ok', 'form', 'No finding is open.');
  if (waived.length > 0) add('waivers', 'ok', 'form', `${waived.length} waived, with reasons; they stand in the spec sheet.`);
  const snags = state.kept?.snags ?? [];
  if (snags.length > 0)
    add(
      'snags',
      'near',
      'form',
      `${snags.length} ${snags.length === 1 ? 'snag is' : 'snags are'} open, ${figure(
        snags.reduce((n, s) => n + s.minutes, 0),
        0,
      )} min: ${snags[0].words}${snags.length > 1 ? ' and others' : ''}.`,
    );
  const gathers = gatherOf(document).on;
  /** A set in place of the materials: judged where it is of the piece as it is, missed where it isn’t. */
  const set = (
    id: string,
    what: string,
    of: { figures: { size: number } } | null | undefined,
    verdict: Pick<PreflightLine, 'level' | 'sentence'> | null,
    [older, none]: readonly [older: string, none: string],
  ) => {
    if (of && verdict) add(id, verdict.level, 'bake', `${what} on one set of ${of.figures.size} px. ${verdict.sentence}`);
    else add(`stale-${id}`, 'over', 'bake', of ? older : none);
  };
  const { gather, project } = state;
  if (gathers)
    set('gather', 'Gathered', gather, gather?.fresh ? gatherVerdict(gather.figures) : null, [
      'The gathered set was made from an older state; gather again.',
      'The set has not been gathered yet.',
    ]);
  const projects = projectOf(document).on;
  const photographed = photographedParts(document);
  const isAllPhotographed = photographed.size > 0 && deliveredParts(document).every((p) => photographed.has(p.id));
  if (projects)
    set('project', 'Photographs', project, project?.fresh ? projectVerdict(project.figures) : null, [
      'The photographs were laid on an older state of the piece; lay them on again.',
      'The photographs have not been laid on yet.',
    ]);
  for (const stage of NEEDED) {
    if (stage === 'bake' && !canBake(document)) continue;
    if (stage === 'surface' && (isAllPhotographed || isAllCame(document) || (gathers && isAllTextured(document)))) continue;
    if (!fresh[stage])
      add(
        `stale-${stage}`,
        stage === 'render' ? 'near' : 'over',
        stage,
        state[stage === 'bake' || stage === 'surface' || stage === 'render' ? stage : 'ledger']
          ? `The ${STAGE_NAMES[stage]} was made from an older state; make it again.`
          : `The ${STAGE_NAMES[stage]} has not been made yet.`,
      );
  }
  if (ledger) {
    const { limits } = document.brief;
    add(
      'triangles',
      ledger.triangles > limits.triangles ? 'over' : 'ok',
      'form',
      `${figure(ledger.triangles, 0)} of ${figure(limits.triangles, 0)} triangles.`,
    );
    add(
      'memory',
      textureMemoryMB(document) > limits.memoryMB ? 'over' : 'ok',
      'brief',
      `${figure(textureMemoryMB(document), 1)} of ${figure(limits.memoryMB, 1)} MB of textures.`,
    );
  }
  if (fresh.unwrap && state.layout?.overlapTexels)
    add('texels-twice', 'over', 'unwrap', `${figure(state.layout.overlapTexels, 0)} texels are claimed by two islands.`);
  if (fresh.unwrap && state.layout?.outside)
    add(
      'outside',
      'over',
      'unwrap',
      `${state.layout.outside === 1 ? 'An island reaches' : `${state.layout.outside} islands reach`} out of the tile.`,
    );
  const inside = state.layout?.seams?.hardInsideMm ?? 0;
  if (fresh.unwrap && document.bake.normal && canBake(document) && inside > 0.01)
    add('hard-inside', 'near', 'unwrap', `${millimetres(inside, 0)} of hard edge lie inside islands: baked normals can’t be right there.`);
  const bare = deliveredParts(document).filter((p) => !photographed.has(p.id) && !document.materials.some((m) => m.id === p.material));
  if (bare.length > 0) add('materials', 'over', 'surface', `Without a material: ${bare.map((p) => p.name).join(', ')}.`);
  const came = new Set(cameMaterials(document).map((m) => m.id));
  const untouched = usedMaterials(document).filter((m) => !m.touched && !came.has(m.id) && !(gathers && m.texturing));
  if (came.size > 0 && !gathers && !isAllPhotographed)
    add(
      'came',
      'ok',
      'surface',
      `${came.size === 1 ? 'A material goes' : `${came.size} materials go`} out with the pictures ${came.size === 1 ? 'it' : 'they'} came with, byte for byte.`,
    );
  const unfit = keepsLayouts(document) || gathers || isAllPhotographed ? [] : usedMaterials(document).filter((m) => m.texturing);
  if (unfit.length > 0)
    add(
      'came-unfit',
      'near',
      'unwrap',
      `The pictures that ${unfit.map((m) => m.name).join(', ')} came with lie on the layouts of the files, and the piece has others: they don’t go along. Gather them onto the new one in Bake.`,
    );
  if (untouched.length > 0 && !isAllPhotographed)
    add('untouched', 'near', 'surface', `Still as the file brought them: ${untouched.map((m) => m.name).join(', ')}.`);
  if (bare.length === 0 && (untouched.length === 0 || isAllPhotographed))
    add(
      'materials',
      'ok',
      'surface',
      isAllPhotographed ? 'Every part has a photograph on it.' : 'Every part has a material that somebody chose.',
    );
  if (fresh.surface && state.surface) {
    const v = surfaceVerdict(state.surface);
    add('validity', v.level, 'surface', v.sentence);
  }
  if (fresh.bake && state.bake?.verdict) add('bake', state.bake.verdict.level, 'bake', state.bake.verdict.sentence);
  if (fresh.render && state.render)
    add(
      'noise',
      state.render.noise > 0.02 ? 'near' : 'ok',
      'render',
      `The picture’s noise is ${figure(100 * state.render.noise, 2)} % after ${figure(state.render.samples, 0)} samples.`,
    );
  const unlicensed = document.sources.filter((s) => !s.licence.trim());
  if (unlicensed.length > 0) add('licence', 'near', 'brief', `No licence is noted for ${unlicensed.map((s) => s.fileName).join(', ')}.`);
  else if (document.sources.length > 0) add('licence', 'ok', 'brief', 'Every source has its licence noted.');
  if (!document.shot.locked) add('shot', 'near', 'light', 'The shot is not locked; it could still change under the picture.');
  const rank = { over: 0, near: 1, ok: 2 };
  return lines.sort((a, b) => rank[a.level] - rank[b.level]);
}

/** What the formats can't carry, in sentences. */
export function notCarried(document: AssetDocument, formats: { glb: boolean; obj: boolean }): string[] {
  const used = usedMaterials(document);
  const names = (test: (m: (typeof used)[number]) => boolean) =>
    used
      .filter(test)
      .map((m) => m.name)
      .join(', ');
  const out: string[] = [];
  const glowing = names((m) => m.emission > 0);
  const clear = names((m) => m.transmission > 0);
  const coated = names((m) => m.coat > 0);
  if (formats.glb && glowing)
    out.push(`GLB: the glow of ${glowing} is given against the shot’s white, not in W/(m²·sr); its radiance stands in the file’s extras.`);
  const unseen = unprinted(document);
  if (unseen.length > 0)
    out.push(
      `${unseen.map((p) => p.name).join(', ')} ${unseen.length === 1 ? 'lies on a part that goes' : 'lie on parts that go'} out in pictures of their own: nothing is printed on those.`,
    );
  const dimmed = names((m) => m.emission > 0 && m.layers.some((l) => l.on && l.look.colour));
  if (formats.glb && dimmed) out.push(`GLB: the glow of ${dimmed} is even; what its layers take of it is in the emissive map beside it.`);
  if (formats.obj && clear) out.push(`OBJ: ${clear} can only be told as partly solid (d); index and thin walls are lost to most readers.`);
  if (formats.obj && glowing) out.push(`OBJ: the glow of ${glowing} has a colour but no strength.`);
  if (formats.obj && coated) out.push(`OBJ: the clear coat of ${coated} is written (Pc), but few read it.`);
  if (formats.obj) out.push(`OBJ: the format has no unit; lengths are in ${document.handoff.unit}.`);
  return out;
}
