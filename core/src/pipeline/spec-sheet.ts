import { FURTHER } from '../bake/maps/further';
import { escaped } from '../drawing/escaped';
import { EFFICACY } from '../light/exposure';
import { printVerdicts } from '../print/verdict';
import { figure } from '../units/lengths';
import { sameTarget } from '../uv/chosen/choices';
import type { LayoutFigures } from '../uv/measure';
import { SECOND } from '../uv/second';
import { CHOSEN } from '../uv/words';
import { textureMemoryMB } from './delivered';
import { type AssetDocument, composedMaterials, deliveredParts } from './document';
import { rangeWords } from './further-files';
import { type AssetState, type KeptBeside, notCarried, type PreflightLine, preflight } from './preflight';
import type { PrintedFigures } from './printed';
import type { SolvedStage } from './render';

type Row = [label: string, value: string];

/** Minutes of work by stage, of the machine, and together; stages nobody was counted at are left out. */
function tookRows({ work, machineMinutes }: KeptBeside): Row[] {
  const counted = work.filter((w) => w.minutes >= 0.5);
  const minutes = (m: number) => `${figure(m, m < 10 ? 1 : 0)} min`;
  return [
    ...counted.map((w): Row => [w.stage, minutes(w.minutes)]),
    ...(counted.length > 1 ? ([['Work together', minutes(counted.reduce((n, w) => n + w.minutes, 0))]] as Row[]) : []),
    ...(machineMinutes >= 0.05 ? ([['The machine', minutes(machineMinutes)]] as Row[]) : []),
  ];
}

/** Each advice once, with what was last done on it and how often. */
function adviceRows(advice: KeptBeside['advice']): Row[] {
  const of = new Map<string, string[]>();
  for (const { said, did } of advice) of.set(said, [...(of.get(said) ?? []), did]);
  return [...of].map(([said, did]) => [said, `${did.at(-1)}${did.length > 1 ? `, ${did.length} times` : ''}`]);
}

/** The sheet that goes with the piece: figures, settings, waivers, sources. HTML with everything inside; prints on A4. */
export function specSheet(
  state: AssetState,
  solved: SolvedStage | null,
  files: readonly { name: string; bytes: number; what: string }[],
  picture: string | null,
  madeOn: string,
): string {
  const { document, ledger, layout, bake, surface, render } = state;
  const { brief } = document;
  const artworks = (document.prints ?? []).flatMap(({ artwork: a }) => (a.kind === 'picture' ? [a] : []));
  const table = (title: string, rows: Row[], head?: Row) =>
    rows.length === 0
      ? ''
      : `<section><h2>${escaped(title)}</h2><table>${head ? `<tr><th>${escaped(head[0])}</th><th>${escaped(head[1])}</th></tr>` : ''}${rows
          .map(([a, b]) => `<tr><td>${escaped(a)}</td><td>${escaped(b)}</td></tr>`)
          .join('')}</table></section>`;
  const percent = (x: number, digits = 1) => `${figure(100 * x, digits)} %`;
  const size = ledger ? `${ledger.sizeMm.map((x) => figure(x, 1)).join(' × ')} mm` : '–';
  const mark: Record<PreflightLine['level'], string> = { ok: '○', near: '◐', over: '◆' };
  const waived = state.findings.filter((f) => f.waived);
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escaped(document.name)} · spec sheet</title>
<style>
@page { size: A4; margin: 16mm }
body { font: 10pt/1.45 'Archivo Variable', Archivo, 'Helvetica Neue', Arial, sans-serif; color: #1b2a33; background: #fcfaf4; max-width: 180mm; margin: 12mm auto; font-variant-numeric: tabular-nums }
h1 { font-size: 20pt; font-weight: 600; margin: 0 } h2 { font-size: 10.5pt; margin: 0 0 1.5mm; border-bottom: .3mm solid #1b2a33; padding-bottom: .8mm }
p.sub { color: #5d6b73; margin: 1mm 0 5mm } section { break-inside: avoid; margin: 0 0 5mm }
.columns { columns: 2; column-gap: 8mm } table { width: 100%; border-collapse: collapse } th { text-align: left; font-weight: 600 }
td, th { padding: .7mm 0; border-bottom: .15mm solid #d9d1bf; vertical-align: top } td:last-child, th:last-child { text-align: right }
ul { margin: 0; padding-left: 4.5mm } img { max-width: 100%; max-height: 105mm; display: block; margin: 0 auto 5mm }
@media print { body { margin: 0; background: none } }
</style></head><body>
<h1>${escaped(document.name)}</h1><p class="sub">${escaped(size)} · made on ${escaped(madeOn)}</p>
${picture ? `<img src="${escaped(picture)}" alt="${escaped(document.name)}">` : ''}
<div class="columns">
${table('Brief', [
  ['Wanted size', `${brief.sizeMm.map((x) => figure(x, 1)).join(' × ')} mm`],
  ['Closest view', `${figure(brief.closestMm, 0)} mm, ${brief.lensMm} mm lens`],
  ['Triangle limit', figure(brief.limits.triangles, 0)],
  ['Textures', `${brief.limits.textureSets} × ${brief.limits.textureSize} px, ${figure(brief.limits.memoryMB, 1)} MB`],
  ...(brief.deadline ? ([['Due', brief.deadline]] as Row[]) : []),
])}
${
  ledger
    ? table('Ledger', [
        ['Triangles', figure(ledger.triangles, 0)],
        ['Vertices as stored', figure(ledger.gpuVertices, 0)],
        ['Draw calls', figure(ledger.drawCalls, 0)],
        ['Texture memory', `${figure(textureMemoryMB(document), 1)} MB`],
        ['Surface', `${figure(ledger.areaMm2 / 100, 1)} cm²`],
      ])
    : ''
}
${
  layout
    ? table('Layout', [
        ['Islands', figure(layout.islands, 0)],
        ['Density', `${figure(layout.density, 1)} px/cm`],
        ...(layout.unseenShare && layout.unseenDensity && layout.unseenShare < 1
          ? ([
              ['Where nobody looks', `${figure(layout.unseenDensity, 1)} px/cm on ${percent(layout.unseenShare, 0)} of the surface`],
            ] as Row[])
          : []),
        ['Stretch', `${figure(layout.stretchL2, 3)} L², ${figure(layout.stretchLinf, 3)} at worst`],
        ...meantStretch(document, layout),
        ['Covered', percent(layout.coverage)],
        ['Islands apart by', `${figure(layout.gutter, 0)} px`],
        ...(layout.twins
          ? ([
              ['Shells that share texels', `${figure(layout.twins.shells, 0)}, ${figure(layout.twins.mirrored, 0)} of them mirrored`],
            ] as Row[])
          : []),
        ...(layout.second
          ? ([
              [
                `Second layout (${SECOND.inGlb})`,
                `${figure(layout.second.islands, 0)} islands, ${percent(layout.second.coverage)} covered, ${figure(layout.second.density, 1)} px/cm, ${figure(layout.second.gutter, 0)} px apart`,
              ],
            ] as Row[])
          : []),
        ...(layout.seams
          ? ([
              [
                'Seams',
                `${figure(layout.seams.lengthMm, 0)} mm, ${percent(layout.seams.lengthMm > 0 ? layout.seams.shownMm / layout.seams.lengthMm : 0, 0)} in view`,
              ],
              ['Hard edges inside islands', `${figure(layout.seams.hardInsideMm, 0)} mm`],
            ] as Row[])
          : []),
      ])
    : ''
}
${table(
  'Parts',
  deliveredParts(document).map((p): Row => [p.name, document.materials.find((m) => m.id === p.material)?.name ?? 'no material']),
)}
${
  bake
    ? table('Bake', [
        ['Normal map', `Y ${document.bake.y}, ${document.bake.bits} bits, ${document.bake.samples} × ${document.bake.samples} samples`],
        ['Distances', `${figure(bake.uniform.front, 2)} mm outward, ${figure(bake.uniform.rear, 2)} mm inward at most`],
        ['Missed', percent(bake.missedShare, 2)],
        ...(bake.roundedMm > 0
          ? ([['Hard edges', `of parts without a high mesh rounded by ${figure(bake.roundedMm, 2)} mm`]] as Row[])
          : []),
        ...document.bake.further.map((m): Row => [`Map: ${FURTHER[m].name}`, rangeWords(m, bake) || FURTHER[m].about]),
        ...(bake.judgement ? ([['Mean error', `${figure(bake.judgement.mean, 2)}°`]] as Row[]) : []),
      ])
    : ''
}
${table(
  'Materials',
  composedMaterials(document).map((m): Row => [m.name, m.source]),
  ['Material', 'values from'],
)}
${
  surface
    ? table(
        'Layers, of each material’s surface',
        surface.composed.materials.map((m): Row => [m.name, m.layers.map((l) => `${l.name} ${percent(l.share)}`).join(', ') || 'none']),
      )
    : ''
}
${surface?.printed ? table('Prints', printRows(document, surface.printed)) : ''}
${
  solved
    ? table('Light', [
        ...solved.rig.figures.map(
          (l): Row => [
            l.name,
            `${figure(l.watts, 2)} W (${figure(l.lumens, 0)} lm), ${figure(l.radiance, 1)} W/(m²·sr), ${figure(l.widthMm, 0)} × ${figure(l.heightMm, 0)} mm at ${figure(l.distanceMm, 0)} mm`,
          ],
        ),
        ['Efficacy used', `${figure(EFFICACY, 1)} lm/W, equal power 380–780 nm`],
      ])
    : ''
}
${
  solved
    ? table('Shot', [
        ...(document.shot.photo === undefined
          ? []
          : [['Seen', 'through the camera of a photograph, which stands behind it'] as [string, string]]),
        ['Lens', `${figure(solved.shot.lensMm, 1)} mm at f/${solved.shot.aperture}, ${document.shot.seconds} s, ISO ${document.shot.iso}`],
        ['Distance', `${figure(solved.shot.nearest, 0)} mm to the nearest point`],
        [
          'In focus',
          `${figure(solved.shot.focus.near, 0)} to ${Number.isFinite(solved.shot.focus.far) ? figure(solved.shot.focus.far, 0) : '∞'} mm`,
        ],
        ['Picture', `${document.shot.widthPx} × ${document.shot.heightPx} px`],
      ])
    : ''
}
${
  render
    ? table('Picture', [
        ['Samples per pixel', figure(render.samples, 0)],
        ['Noise', percent(render.noise, 2)],
        ['Time', `${figure(render.seconds, 1)} s`],
        ['Light held back', percent(render.heldBackShare, 2)],
      ])
    : ''
}
</div>
<section><h2>Preflight</h2><ul>${preflight(state)
    .map((l) => `<li>${mark[l.level]} ${escaped(l.sentence)}</li>`)
    .join('')}</ul></section>
${
  waived.length
    ? table(
        'Waivers',
        waived.map((f): Row => [f.message, f.waived ?? '']),
        ['Finding', 'intended because'],
      )
    : ''
}
${table('Advice that was taken', adviceRows(state.kept?.advice ?? []), ['Advised', 'done'])}
${state.kept ? table('What it took', tookRows(state.kept)) : ''}
${
  state.kept?.snags.length
    ? table(
        'Left for later',
        state.kept.snags.map((s): Row => [s.words, `${figure(s.minutes, 0)} min`]),
      )
    : ''
}
${
  document.sources.length + artworks.length
    ? table('Sources', [
        ...document.sources.map((s): Row => [s.fileName, `${s.licence || 'licence not noted'}${s.note ? `; ${s.note}` : ''}`]),
        ...artworks.map((a): Row => [a.fileName, a.source || 'artwork; licence not noted']),
      ])
    : ''
}
${table(
  'Files',
  files.map((f): Row => [f.name, `${f.what}, ${figure(f.bytes / 1000, 0)} kB`]),
)}
<section><h2>What the formats can’t carry</h2><ul>${notCarried(document, document.handoff.include)
    .map((s) => `<li>${escaped(s)}</li>`)
    .join('')}</ul></section>
</body></html>
`;
}

/** Prints with their sizes, where they lie and what of them is as it shouldn’t be. */
const printRows = ({ prints = [], brief }: AssetDocument, printed: PrintedFigures): Row[] =>
  printed.prints.flatMap((f): Row[] => {
    const print = prints.find((p) => p.id === f.id);
    if (!print) return [];
    const round = f.round ? `, ${figure(f.round.degrees, 1)}° round Ø ${figure(f.round.diameter, 1)} mm` : '';
    const wrong = printVerdicts(f, print, brief).flatMap((v) => (v.level === 'ok' ? [] : [v.sentence]));
    return [
      [
        print.name,
        `${figure(print.width, 1)} × ${figure(print.height, 1)} mm${round}, ${figure(f.pxPerMm.mean, 1)} texels a mm${wrong.length > 0 ? `. ${wrong.join(' ')}` : ''}`,
      ],
    ];
  });

/** What is stretched on purpose, and why. */
function meantStretch({ unwrap, parts }: AssetDocument, { choices }: LayoutFigures): Row[] {
  return (unwrap.choices ?? []).flatMap((choice): Row[] => {
    const { part, method, meant } = choice;
    const found = choices?.find((r) => sameTarget(r, choice));
    const name = parts.find((p) => p.id === part)?.name ?? '';
    return meant && found ? [[`Stretched on purpose: ${name}, ${CHOSEN[method]}`, `${figure(found.stretchL2, 3)} L²: ${meant}`]] : [];
  });
}
