import { random } from '@wellmorph/core/maths/random';
import type { About } from '@wellmorph/core/plan/nearest';

/** A piece of the workshop, as far as a season’s history is about it. */
export interface SeasonPiece {
  id: string;
  name: string;
  textureSize: number;
  about: About;
}

/** A run of the season. All of it is invented, and says so. */
export interface SeasonRun {
  piece: string;
  stage: 'unwrap' | 'bake' | 'render';
  title: string;
  settings: Record<string, unknown>;
  figures: Record<string, number>;
  milliseconds: number;
  verdict: 'kept' | 'dropped' | 'open';
  /** Days before the demo is put up, and minutes into that day. */
  daysAgo: number;
  minute: number;
}
export interface Season {
  runs: SeasonRun[];
  spent: { piece: string; stage: 'brief' | 'form'; daysAgo: number; minutes: number }[];
  lessons: { sentence: string; kind: 'material' | 'stage'; subject: string; run: number }[];
  snags: { piece: string; words: string; minutes: number }[];
}

/** What a run of the invented season is marked by, wherever it is shown. */
export const INVENTED = 'invented for the demo';
const DAYS = 88;

/**
 * A season’s history of the invented workshop: runs whose figures follow simple laws with some scatter, hours spent on forms, a few lessons and
 * snags. The same seed, the same season.
 */
export function season(pieces: readonly SeasonPiece[], seed = 7): Season {
  const r = random(seed);
  const normal = () => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
  const about = (spread: number) => Math.exp(spread * normal());
  const pick = <T>(list: readonly T[]): T => list[Math.floor(r() * list.length)];
  const short = (v: number) => Number(v.toPrecision(3));
  const out: Season = { runs: [], spent: [], lessons: [], snags: [] };
  pieces.forEach((p, i) => {
    const day = DAYS - Math.floor((i * (DAYS - 3)) / Math.max(1, pieces.length));
    let minute = 8 * 60 + Math.floor(60 * r());
    const run = (of: Omit<SeasonRun, 'piece' | 'daysAgo' | 'minute'>, later: number) => {
      minute += 9 + Math.floor(40 * r());
      out.runs.push({ piece: p.id, daysAgo: Math.max(1, day - later), minute, ...of });
    };
    const verdict = (good: boolean): SeasonRun['verdict'] => (good ? (r() < 0.8 ? 'kept' : 'open') : r() < 0.7 ? 'dropped' : 'open');
    // Forms of more parts take longer.
    out.spent.push({ piece: p.id, stage: 'form', daysAgo: day, minutes: short((24 + 9.5 * p.about.parts) * about(0.16)) });
    out.spent.push({ piece: p.id, stage: 'brief', daysAgo: day, minutes: short(7 * about(0.3)) });
    const megatexels = p.textureSize ** 2 / 1e6;
    for (const padding of [pick([2, 4]), 8]) {
      const islands = Math.round(14 * p.about.parts * about(0.2));
      const coverage = Math.min(0.82, (padding === 8 ? 0.61 : 0.66) * about(0.06));
      run(
        {
          stage: 'unwrap',
          title: `Padding ${padding}, ${p.textureSize} px`,
          settings: { padding, seamAngle: 50, rotate: true, fewer: 0, stretchLimit: 1.05, whole: false, unseen: 1, size: p.textureSize },
          figures: {
            islands,
            stretchL2: short(1 + 0.03 * about(0.5)),
            coverage: short(coverage),
            density: short(24 * about(0.2)),
            seamMm: short(30 * islands * about(0.2)),
          },
          milliseconds: Math.round(3000 * about(0.3)),
          verdict: verdict(padding === 8),
        },
        1,
      );
    }
    for (const reach of [0, 1, 2].slice(0, 1 + Math.floor(2.5 * r()))) {
      const measured = reach !== 1;
      const frontMm = short(0.2 + 2.2 * r());
      run(
        {
          stage: 'bake',
          title: measured ? 'Measured, 2 × 2' : `Uniform ${frontMm} / ${frontMm}`,
          settings: {
            samples: 2,
            y: 'up',
            bits: 8,
            distances: measured ? 'measured' : 'uniform',
            directions: 'averaged',
            frontMm,
            rearMm: frontMm,
            occlusionRays: 64,
            size: p.textureSize,
          },
          figures: {
            missedPercent: short(measured ? 0.02 * about(0.8) : 0.4 * about(0.5)),
            p95Degrees: short(measured ? 0.9 * about(0.4) : (1.1 + 1.3 * frontMm) * about(0.12)),
          },
          milliseconds: Math.round(52_000 * megatexels ** 0.94 * about(0.2)),
          verdict: verdict(measured),
        },
        2,
      );
    }
    for (const samples of [32, 64, pick([96, 128, 192, 256])]) {
      run(
        {
          stage: 'render',
          title: `960 × 1200, ${samples} samples`,
          settings: {
            samples,
            seed: 1,
            width: 960,
            height: 1200,
            tone: 'neutral',
            lens: 90,
            elevation: pick([10, 14, 18]),
            surround: 0.3,
            background: 'paper',
          },
          figures: { noisePercent: short(11.4 * samples ** -0.56 * about(0.14)), samples, clippedPercent: short(0.1 * about(0.8)) },
          milliseconds: Math.round(2600 * samples * about(0.18)),
          verdict: verdict(samples >= 64),
        },
        3,
      );
    }
  });
  const bakeOf = (name: string) =>
    out.runs.findIndex(
      (x) => x.stage === 'bake' && x.settings.distances === 'uniform' && pieces.find((p) => p.id === x.piece)?.name === name,
    );
  const uniform = out.runs.findIndex((x) => x.stage === 'bake' && x.settings.distances === 'uniform');
  out.lessons.push(
    {
      sentence: 'One distance for all of it catches the neighbour’s wall as soon as it is over a millimetre.',
      kind: 'stage',
      subject: 'bake',
      run: Math.max(0, bakeOf('Enamel oil can'), uniform),
    },
    {
      sentence: 'Below a roughness of 0.2 brass this small looks like plastic.',
      kind: 'material',
      subject: 'Aged brass',
      run: out.runs.findIndex((x) => x.stage === 'render'),
    },
  );
  const named = (name: string) => pieces.find((p) => p.name === name)?.id;
  for (const [name, words, minutes] of [
    ['Storm lantern', 'Burner knob: its knurl shimmers from afar', 20],
    ['Keeper’s chest', 'Lid’s front edge wants a softer bevel', 25],
    ['Enamel oil can', 'Spout’s seam shows in the hero view', 15],
  ] as const) {
    const piece = named(name);
    if (piece) out.snags.push({ piece, words, minutes });
  }
  return out;
}
