import { bin, run, say } from './lib.mjs';

/** Each workspace under its own rules: the core without a DOM and without Node. */
for (const project of [
  'core/tsconfig.json',
  'core/tsconfig.test.json',
  'cli/tsconfig.json',
  'demo/tsconfig.json',
  'web/tsconfig.json',
  'e2e/tsconfig.json',
]) {
  say(project);
  run(bin('tsc'), ['-p', project]);
}
