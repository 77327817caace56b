import type { Finding } from '@wellmorph/core/inspect/finding';
import { type LimitKept, limitWords } from '@wellmorph/core/pipeline/limits';

/** What one file came to, for a report that build servers read. */
export interface Judged {
  file: string;
  /** Drawn, or null where it couldn’t be read. */
  triangles: number | null;
  limits: readonly LimitKept[];
  open: readonly Finding[];
  /** The sentence why it couldn't be read. */
  unreadable?: string;
}

const escaped = (text: string): string =>
  text.replace(/[&<>"']|\p{Cc}/gu, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' })[c] ?? ' ');

/** One suite a file, one case a limit and a finding that is not allowed; a file without any has one case that passes. */
export function junit(files: readonly Judged[]): string {
  const testcase = (suite: string, name: string, failure?: string) =>
    `    <testcase classname="${escaped(suite)}" name="${escaped(name)}"${failure === undefined ? '/>' : `>\n      <failure message="${escaped(failure)}"/>\n    </testcase>`}`;
  const suites = files.map((f) => {
    const cases = [
      ...(f.unreadable === undefined ? [] : [{ name: 'can be read', failure: f.unreadable }]),
      ...f.limits.map((l) => ({ name: l.what, failure: l.kept ? undefined : limitWords(l) })),
      ...f.open.map((o) => ({ name: o.id, failure: o.message })),
    ];
    if (cases.length === 0) cases.push({ name: 'nothing to mend', failure: undefined });
    const failures = cases.filter((c) => c.failure !== undefined).length;
    return `  <testsuite name="${escaped(f.file)}" tests="${cases.length}" failures="${failures}">\n${cases.map((c) => testcase(f.file, c.name, c.failure)).join('\n')}\n  </testsuite>`;
  });
  return `<?xml version="1.0" encoding="UTF-8"?>\n<testsuites name="wellmorph check">\n${suites.join('\n')}\n</testsuites>\n`;
}
