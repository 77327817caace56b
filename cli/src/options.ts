/** Everything that can be said on the command line: what each takes, and what it is for. Which command takes which: `commands.ts`. */
export const OPTIONS = {
  out: { type: 'string', short: 'o', value: 'FILE', about: 'where what is made goes; - is standard output' },
  up: { type: 'string', value: 'y|z', about: 'which way is up in formats that don’t say; z in STEP, y in others when absent' },
  tolerance: { type: 'string', value: 'MM', about: 'how far triangles may lie from the exact surfaces of a STEP file; 0.1 when absent' },
  unit: { type: 'string', value: 'mm|cm|m|in', about: 'what one unit is in formats that don’t say; mm when absent' },
  limits: { type: 'string', value: 'LIMITS.json', about: 'a file of limits, and of findings that are allowed' },
  'limit-triangles': { type: 'string', value: 'N', about: 'triangles there may be' },
  junit: { type: 'string', value: 'REPORT.xml', about: 'a report for build servers, also when files can’t be read' },
  triangles: { type: 'string', value: 'N', about: 'triangles there may be' },
  size: { type: 'string', value: 'N', about: 'side of the texture, px; of a picture its width and height, like 512x512' },
  padding: { type: 'string', value: 'N', about: 'empty texels between islands; 8 when absent' },
  keep: { type: 'boolean', about: 'keep the islands the file has, and pack them anew' },
  angle: { type: 'string', value: 'DEGREES', about: 'edges sharper than this are hard, and cut; 40 and 50 when absent' },
  whole: { type: 'boolean', about: 'leave long islands whole, even where the tile would be filled better' },
  twins: { type: 'boolean', about: 'shells of one shape, mirrored or not, have the same texels' },
  second: { type: 'string', value: 'PX', about: 'a second layout beside the first, for textures of that size' },
  fewer: { type: 'string', value: 'N', about: 'fewer seams for more stretch, -2 to 2; 0 when absent' },
  unseen: { type: 'string', value: 'SHARE', about: 'density where nobody looks against the rest, 0.1 to 1; 1 when absent' },
  low: { type: 'string', value: 'FILE', about: 'the laid-out low model' },
  high: { type: 'string', value: 'FILE', about: 'the high model; without it parts are baked from themselves' },
  pairs: { type: 'string', value: 'PAIRS.json', about: 'which high part belongs to which low one: {"low name": "high name"}' },
  samples: { type: 'string', value: 'N', about: 'samples across a texel (1, 2 or 4), or paths of a pixel' },
  maps: {
    type: 'string',
    value: 'LIST',
    about: 'of those the README lists, with commas; normal,occlusion when absent',
  },
  bits: { type: 'string', value: '8|16', about: 'bits of the normal map’s channels; 8 when absent' },
  reach: { type: 'string', value: 'MM', about: 'how far away something darkens; 30 when absent' },
  y: { type: 'string', value: 'up|down', about: 'which way the green of a normal map points; up when absent' },
  round: { type: 'string', value: 'MM', about: 'hard edges of parts without a high mesh are rounded so far' },
  outward: { type: 'string', value: 'MM', about: 'how far out rays begin; measured when absent' },
  inward: { type: 'string', value: 'MM', about: 'how far in rays end; measured when absent' },
  threads: { type: 'string', value: 'N', about: 'threads that draw; as many as the machine has when absent' },
  seed: { type: 'string', value: 'N', about: 'another seed gives other noise' },
  json: { type: 'boolean', about: 'the result as JSON (schemas in cli/schemas)' },
  quiet: { type: 'boolean', about: 'no progress, and no text but what is wrong' },
  help: { type: 'boolean', short: 'h', about: 'this text' },
  version: { type: 'boolean', about: 'which version this is' },
} as const;

export type OptionName = keyof typeof OPTIONS;
export type Values = { [K in OptionName]?: (typeof OPTIONS)[K]['type'] extends 'boolean' ? boolean : string };

/** What some options were called before; still read. */
export const ONCE: Readonly<Record<string, OptionName>> = { front: 'outward', rear: 'inward' };
