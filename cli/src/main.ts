import { parseArgs } from 'node:util';
import { InputError, WellmorphError } from '@wellmorph/core/errors';
import { bakeCommand } from './commands/bake';
import { checkCommand } from './commands/check';
import { exportCommand } from './commands/export';
import { renderCommand } from './commands/render';
import { simplifyCommand } from './commands/simplify';
import { solveCommand } from './commands/solve';
import { unwrapCommand } from './commands/unwrap';
import { OPTIONS, type Values } from './options';
import type { Outcome } from './output';

const HELP = `wellmorph: measures, unwraps, bakes, renders and hands over models from the command line.

  wellmorph check FILE|ASSET.zip|FOLDER … [--limits LIMITS.json] [--limit-triangles N] [--junit REPORT.xml]
  wellmorph unwrap IN -o OUT.glb [--size 1024] [--padding 8]
  wellmorph bake --low L --high H -o DIR [--size 1024] [--samples 1|2|4] [--maps normal,occlusion,curvature]
                 [--y up|down] [--front MM --rear MM]
  wellmorph render FILE -o OUT.png [--size 512x512] [--samples 64] [--threads N] [--seed S]
  wellmorph export FILE -o OUT.zip [--size 1024] [--y up|down]
  wellmorph simplify IN -o OUT.glb --triangles N
  wellmorph solve ASSET.zip|RECIPE.json --triangles N [-o OUT.asset.zip]

  All take --unit mm|cm|m|in (what one unit is in formats that don't say; mm by default) and --json.
  Exit: 0 done · 1 a finding of severity error or a limit exceeded · 2 input that can't be used.
`;

/** Runs one command; returns the exit code. Results go to standard output, everything else to standard error. */
export async function main(argv: string[]): Promise<number> {
  try {
    let parsed: { values: Values; positionals: string[] };
    try {
      parsed = parseArgs({ args: argv, options: OPTIONS, allowPositionals: true, strict: true }) as typeof parsed;
    } catch (error) {
      throw new InputError('cli/arguments', `${(error as Error).message.split('. ')[0].split('\n')[0]}; see wellmorph --help.`);
    }
    const { values, positionals } = parsed;
    const [command, ...rest] = positionals;
    if (values.help || command === undefined) {
      process.stdout.write(HELP);
      return command === undefined && !values.help ? 2 : 0;
    }
    let outcome: Outcome;
    if (command === 'check') outcome = await checkCommand(rest, values);
    else if (command === 'unwrap') outcome = await unwrapCommand(rest, values);
    else if (command === 'bake') outcome = await bakeCommand(rest, values);
    else if (command === 'render') outcome = await renderCommand(rest, values);
    else if (command === 'export') outcome = await exportCommand(rest, values);
    else if (command === 'simplify') outcome = await simplifyCommand(rest, values);
    else if (command === 'solve') outcome = await solveCommand(rest, values);
    else throw new InputError('cli/command', `“${command}” is not a command; check, unwrap, bake, render, export, simplify and solve are.`);
    process.stdout.write(values.json ? `${JSON.stringify(outcome.json, null, 2)}\n` : outcome.text);
    return outcome.failed ? 1 : 0;
  } catch (error) {
    if (!(error instanceof WellmorphError) && !isSystemError(error)) {
      process.stderr.write(
        `wellmorph: something went wrong that was not foreseen: ${error instanceof Error ? error.message : String(error)}\n`,
      );
      return 2;
    }
    process.stderr.write(`wellmorph: ${error.message}\n`);
    return 2;
  }
}

const isSystemError = (error: unknown): error is NodeJS.ErrnoException => error instanceof Error && 'code' in error;
