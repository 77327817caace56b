import { type ChildProcess, fork } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { testKit } from '../test/kit';
import { attempt } from './attempt';
import { caseOf } from './cases';
import { originals } from './originals';

/**
 * Damaged files, one after the other, in processes of their own that are watched from outside: for errors that are no sentence, for
 * those that take too long, for those that take too much memory. The same seed and number make the same file.
 */
/** Of its own working time: machines are shared. */
const LONGEST_S = 10;
/** Of the clock, whatever it does meanwhile. */
const LONGEST_WAIT_S = 60;
const LARGEST_MB = 1500;

const say = (line: string): void => void process.stdout.write(`${line}\n`);

interface Told {
  number: number;
  original: string;
  went: 'read' | 'refused' | 'foreign';
  ms: number;
  said?: string;
}

async function worker(seed: number, first: number, every: number, last: number): Promise<void> {
  const [all, kit] = [await originals(), await testKit()];
  for (let number = first; number < last; number += every) {
    const file = caseOf(all, seed, number);
    const tell = (told: object) =>
      new Promise<void>((ok) => process.send?.({ number, original: file.original, ...told }, () => ok()) ?? ok());
    await tell({ begins: true });
    const start = performance.now();
    try {
      const { went, ...rest } = await attempt(file, kit);
      await tell({ went, ms: performance.now() - start, said: 'sentence' in rest ? rest.sentence : undefined });
    } catch (error) {
      await tell({
        went: 'foreign',
        ms: performance.now() - start,
        said: error instanceof Error ? (error.stack ?? error.message) : String(error),
      });
    }
  }
  process.disconnect?.();
}

interface Failure {
  number: number;
  original: string;
  what: string;
}

async function watch(): Promise<number> {
  const { values } = parseArgs({
    options: {
      seed: { type: 'string', default: '1' },
      cases: { type: 'string' },
      minutes: { type: 'string' },
      only: { type: 'string' },
      out: { type: 'string', default: '.cache/fuzz' },
    },
  });
  const number = (name: 'seed' | 'cases' | 'minutes' | 'only'): number | undefined => {
    const text = values[name];
    if (text === undefined) return undefined;
    if (!(Number(text) >= 0)) throw new Error(`--${name} is ${text}; it can be a number from 0.`);
    return Number(text);
  };
  const seed = number('seed') ?? 1;
  const minutes = number('minutes');
  const only = number('only');
  const most = only !== undefined ? only + 1 : (number('cases') ?? (minutes === undefined ? 20_000 : Number.MAX_SAFE_INTEGER));
  const ends = performance.now() + (minutes ?? Infinity) * 60_000;
  const every = only !== undefined ? 1 : availableParallelism();
  const failures: Failure[] = [];
  const count = { read: 0, refused: 0, foreign: 0 };
  const sentences = new Map<string, number>();
  let [slowest, largest] = [{ ms: 0, number: 0, original: '' }, 0];
  // One fault that many files have is said once.
  const kinds = new Map<string, number>();
  const fail = (f: Failure) => {
    failures.push(f);
    const kind = f.what.split('\n', 4).join('\n');
    const known = kinds.get(kind) ?? 0;
    kinds.set(kind, known + 1);
    if (known === 0) say(`✘ case ${f.number} of seed ${seed} (${f.original}): ${f.what}`);
  };

  const lane = async (offset: number): Promise<void> => {
    let next = offset;
    while (next < most && performance.now() < ends) {
      const child: ChildProcess = fork(fileURLToPath(import.meta.url), [], {
        env: { ...process.env, FUZZ_WORKER: JSON.stringify([seed, next, every, most]) },
        execArgv: ['--max-old-space-size=1400'],
        stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
      });
      let errors = '';
      child.stderr?.on('data', (d) => {
        errors = (errors + d).slice(-2000);
      });
      let current: { number: number; original: string; since: number; worked: number } | null = null;
      let ended: 'slow' | 'large' | 'time' | null = null;
      const look = setInterval(() => {
        const megabytes = residentMB(child.pid);
        largest = Math.max(largest, megabytes);
        if (current && (workedS(child.pid) - current.worked > LONGEST_S || performance.now() - current.since > LONGEST_WAIT_S * 1000))
          ended = 'slow';
        else if (megabytes > LARGEST_MB) ended = 'large';
        else if (performance.now() > ends) ended = 'time';
        if (ended) child.kill('SIGKILL');
      }, 100);
      child.on('message', (told: Told & { begins?: true }) => {
        if (told.begins) {
          current = { number: told.number, original: told.original, since: performance.now(), worked: workedS(child.pid) };
          return;
        }
        current = null;
        next = told.number + every;
        count[told.went]++;
        if (told.ms > slowest.ms) slowest = told;
        if (told.went === 'foreign') fail({ number: told.number, original: told.original, what: told.said ?? '' });
        if (told.went === 'refused' && told.said) {
          const kind = told.said.replace(/“[^”]*”|\d[\d.]*/g, '…');
          sentences.set(kind, (sentences.get(kind) ?? 0) + 1);
        }
      });
      await new Promise<void>((ok) => child.on('exit', () => ok()));
      clearInterval(look);
      const at = current as { number: number; original: string } | null;
      if (ended === 'time') break;
      if (at) {
        const what =
          ended === 'slow'
            ? `took more than ${LONGEST_S} s`
            : ended === 'large'
              ? `took more than ${LARGEST_MB} MB`
              : `ended the process: ${errors}`;
        fail({ ...at, what });
        next = at.number + every;
      } else if (next < most && !ended) {
        // It ended between two files: what it was is in its errors.
        fail({ number: next, original: '–', what: `the process ended: ${errors}` });
        next += every;
      }
    }
  };
  await Promise.all(Array.from({ length: every }, (_, i) => lane((only ?? 0) + i)));

  const total = count.read + count.refused + count.foreign;
  say(
    `${total} damaged files: ${count.read} read, ${count.refused} refused in ${sentences.size} kinds of sentence, ${failures.length} failures; ` +
      `the slowest ${(slowest.ms / 1000).toFixed(2)} s (case ${slowest.number}, ${slowest.original}), the largest process ${largest.toFixed(0)} MB.`,
  );
  if (failures.length > 0) {
    const dir = values.out;
    mkdirSync(dir, { recursive: true });
    const all = await originals();
    for (const f of failures) {
      const file = caseOf(all, seed, f.number);
      writeFileSync(join(dir, `${seed}-${f.number}-${file.fileName}`), file.bytes);
    }
    for (const [kind, times] of kinds) if (times > 1) say(`${times} times: ${kind.split('\n')[0]}`);
    say(`The files lie in “${dir}”; one is tried again with --seed ${seed} --only ${failures[0].number}.`);
  }
  return failures.length > 0 ? 1 : 0;
}

/** What a process takes of memory, MB; 0 where that isn't told. */
function residentMB(pid: number | undefined): number {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1000;
  } catch {
    return 0;
  }
}

/** How long a process has worked, s; 0 where that isn't told. */
function workedS(pid: number | undefined): number {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    // In hundredths of a second, as Linux counts them for everyone.
    return (Number(fields[11]) + Number(fields[12])) / 100;
  } catch {
    return 0;
  }
}

if (process.env.FUZZ_WORKER) await worker(...(JSON.parse(process.env.FUZZ_WORKER) as [number, number, number, number]));
else process.exitCode = await watch();
