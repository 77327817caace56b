import { bakeCommand } from './commands/bake';
import { checkCommand } from './commands/check';
import { exportCommand } from './commands/export';
import { renderCommand } from './commands/render';
import { simplifyCommand } from './commands/simplify';
import { solveCommand } from './commands/solve';
import { unwrapCommand } from './commands/unwrap';
import { OPTIONS, type OptionName, type Values } from './options';
import type { Outcome } from './output';

export interface Command {
  about: string;
  /** What it is given beside options. */
  takes: string;
  /** Options it knows, in the order help tells them. */
  options: readonly OptionName[];
  /** Options without which it does nothing. */
  needs: readonly OptionName[];
  run(files: string[], values: Values): Promise<Outcome>;
}

/** Options of every command. */
const EVERYWHERE: readonly OptionName[] = ['json', 'quiet', 'help'];

export const COMMANDS: Readonly<Record<string, Command>> = {
  check: {
    about: 'Measures files, or all models of folders, and says what is wrong with them and which limits they pass.',
    takes: 'FILE|ASSET.zip|FOLDER …',
    options: ['limits', 'limit-triangles', 'junit', 'unit', 'up', 'tolerance'],
    needs: [],
    run: checkCommand,
  },
  unwrap: {
    about: 'Lays a model out: a new first layout; what else its corners carry stays.',
    takes: 'FILE',
    options: ['out', 'size', 'padding', 'keep', 'angle', 'whole', 'fewer', 'unseen', 'twins', 'second', 'unit', 'up', 'tolerance'],
    needs: ['out'],
    run: unwrapCommand,
  },
  bake: {
    about: 'Bakes a high model onto a laid-out low one, or that from itself, and judges what came of it.',
    takes: '',
    options: [
      'low',
      'high',
      'out',
      'pairs',
      'size',
      'samples',
      'maps',
      'bits',
      'reach',
      'y',
      'outward',
      'inward',
      'round',
      'unit',
      'up',
      'tolerance',
    ],
    needs: ['low', 'out'],
    run: bakeCommand,
  },
  render: {
    about: 'Draws a picture: the default backdrop, three lamps solved for the size, the model framed.',
    takes: 'FILE',
    options: ['out', 'size', 'samples', 'threads', 'seed', 'unit', 'up', 'tolerance'],
    needs: ['out'],
    run: renderCommand,
  },
  export: {
    about: 'Makes one archive: GLB, OBJ and MTL, textures from its materials, layout, spec sheet.',
    takes: 'FILE',
    options: ['out', 'size', 'y', 'unit', 'up', 'tolerance'],
    needs: ['out'],
    run: exportCommand,
  },
  simplify: {
    about: 'Brings a model down to a number of triangles, and says how far its surface then lies from what it was.',
    takes: 'FILE',
    options: ['out', 'triangles', 'unit', 'up', 'tolerance'],
    needs: ['out', 'triangles'],
    run: simplifyCommand,
  },
  solve: {
    about: 'Spends a number of triangles on an asset where its outline needs them.',
    takes: 'ASSET.zip|RECIPE.json',
    options: ['triangles', 'out'],
    needs: [],
    run: solveCommand,
  },
};

export const knows = (command: Command, option: OptionName): boolean => command.options.includes(option) || EVERYWHERE.includes(option);

const written = (name: OptionName): string => {
  const option = OPTIONS[name];
  const dashed = 'short' in option && name === 'out' ? `-${option.short}` : `--${name}`;
  return 'value' in option ? `${dashed} ${option.value}` : dashed;
};
const usage = (name: string, { takes, options, needs }: Command): string =>
  ['wellmorph', name, takes, ...needs.map(written), ...options.filter((o) => !needs.includes(o)).map((o) => `[${written(o)}]`)]
    .filter((word) => word !== '')
    .join(' ');

/** A line not longer than a terminal is wide, and how it goes on. */
function folded(text: string, indent: number, width = 100): string {
  const lines: string[] = [];
  for (const word of text.split(' ')) {
    const last = lines[lines.length - 1];
    if (last !== undefined && last.length + 1 + word.length <= width) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(lines.length === 0 ? word : `${' '.repeat(indent)}${word}`);
  }
  return lines.join('\n');
}

/** What there is to be said of a command. */
export function helpOf(name: string): string {
  const command = COMMANDS[name];
  const rows = [...command.options, ...EVERYWHERE].map((o) => `  ${written(o).padEnd(24)} ${OPTIONS[o].about}\n`);
  return `${folded(usage(name, command), 4)}\n\n${command.about}\n\n${rows.join('')}`;
}

/** What there is to be said of all of them. */
export function help(): string {
  const lines = Object.entries(COMMANDS).map(([name, c]) => `  ${name.padEnd(9)} ${c.about}\n`);
  return `wellmorph: measures, unwraps, bakes, renders and hands over models from the command line.

${lines.join('')}
  wellmorph help COMMAND tells what it takes; - in place of a file is standard input or output.
  Exit: 0 done · 1 a finding of severity error or a limit exceeded · 2 input that can’t be used.
`;
}
