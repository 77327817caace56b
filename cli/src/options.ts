/** Everything that can be said on the command line; each command reads what concerns it. */
export const OPTIONS = {
  unit: { type: 'string' },
  json: { type: 'boolean' },
  help: { type: 'boolean', short: 'h' },
  out: { type: 'string', short: 'o' },
  'limit-triangles': { type: 'string' },
  triangles: { type: 'string' },
  limits: { type: 'string' },
  junit: { type: 'string' },
  size: { type: 'string' },
  padding: { type: 'string' },
  low: { type: 'string' },
  high: { type: 'string' },
  samples: { type: 'string' },
  maps: { type: 'string' },
  y: { type: 'string' },
  front: { type: 'string' },
  rear: { type: 'string' },
  threads: { type: 'string' },
  seed: { type: 'string' },
} as const;

export type Values = { [K in keyof typeof OPTIONS]?: (typeof OPTIONS)[K]['type'] extends 'boolean' ? boolean : string };
