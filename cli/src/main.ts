import { parseArgs } from 'node:util';
import { InputError, WellmorphError } from '@wellmorph/core/errors';
import { version } from '../package.json';
import { COMMANDS, type Command, help, helpOf, knows } from './commands';
import { ONCE, OPTIONS, type OptionName, type Values } from './options';

/** Runs one command; returns the exit code. Results go to standard output, everything else to standard error. */
export async function main(argv: string[]): Promise<number> {
  try {
    const { values, positionals } = parsed(argv);
    const [name, ...rest] = positionals;
    if (values.version) {
      process.stdout.write(`wellmorph ${version}\n`);
      return 0;
    }
    if (name === undefined || name === 'help') {
      const about = name === 'help' ? rest[0] : undefined;
      process.stdout.write(about === undefined ? help() : helpOf(nameOf(about)));
      return name === undefined && !values.help ? 2 : 0;
    }
    const command = COMMANDS[nameOf(name)];
    if (values.help) {
      process.stdout.write(helpOf(name));
      return 0;
    }
    refuseUnknown(name, command, values);
    const outcome = await command.run(rest, values);
    const told = values.json ? `${JSON.stringify(outcome.json, null, 2)}\n` : values.quiet ? '' : outcome.text;
    // What was made went to standard output itself: what is said of it goes beside it.
    if (values.out === '-') process.stderr.write(told);
    else process.stdout.write(told);
    return outcome.failed ? 1 : 0;
  } catch (error) {
    const words = error instanceof Error ? error.message : String(error);
    const foreseen = error instanceof WellmorphError || isSystemError(error);
    process.stderr.write(`wellmorph: ${foreseen ? '' : 'something went wrong that was not foreseen: '}${words}\n`);
    return 2;
  }
}

function parsed(argv: string[]): { values: Values; positionals: string[] } {
  try {
    return parseArgs({ args: argv.map(asNow), options: OPTIONS, allowPositionals: true, strict: true }) as {
      values: Values;
      positionals: string[];
    };
  } catch (error) {
    throw new InputError('cli/arguments', `${(error as Error).message.split('. ')[0].split('\n')[0]}; see wellmorph --help.`);
  }
}

/** An option under the name it has now. */
const asNow = (argument: string): string =>
  argument.replace(/^--([\w-]+)/, (whole, name: string) => (Object.hasOwn(ONCE, name) ? `--${ONCE[name]}` : whole));

/** @throws InputError when there is no such command */
function nameOf(name: string): string {
  if (Object.hasOwn(COMMANDS, name)) return name;
  const all = Object.keys(COMMANDS);
  throw new InputError('cli/command', `“${name}” is not a command; ${all.slice(0, -1).join(', ')} and ${all[all.length - 1]} are.`);
}

/** What would have no effect is refused: it was meant to have one. */
function refuseUnknown(name: string, command: Command, values: Values): void {
  const strange = (Object.keys(values) as OptionName[]).find((o) => !knows(command, o));
  if (strange) throw new InputError('cli/option', `${name} has no option --${strange}; see wellmorph help ${name}.`);
}

const isSystemError = (error: unknown): error is NodeJS.ErrnoException => error instanceof Error && 'code' in error;
