import { figure } from '@wellmorph/core/units/lengths';

/** Minutes as people say them: `0.6 min`, `40 min`, `3.5 h`. Few of them with a decimal, so that what is added up comes to what is said. */
export function inMinutes(m: number): string {
  if (m >= 90) return `${figure(m / 60, 1)} h`;
  return `${figure(m > 0 ? Math.max(0.1, m) : 0, m < 9.95 ? 1 : 0)} min`;
}

const at = (day: string): Date => new Date(`${day}T12:00:00Z`);
/** `Fri 4 Dec`; farther off, `4 Dec 2027`. */
export function dayWords(day: string, today: string): string {
  // Within a year the day of the week tells which of two it is; farther off only the year does.
  const far = Math.abs(at(day).getTime() - at(today).getTime()) > 300 * 86_400_000;
  const year = far || day < today ? day.slice(0, 4) !== today.slice(0, 4) : false;
  const words = at(day).toLocaleDateString('en-GB', {
    ...(year ? { year: 'numeric' } : { weekday: 'short' }),
    day: 'numeric',
    month: 'short',
    timeZone: 'UTC',
  });
  return words.replace(',', '');
}
export const weekdayLetter = (day: string): string =>
  at(day).toLocaleDateString('en-GB', { weekday: 'short', timeZone: 'UTC' }).slice(0, 1);
export const dateOfMonth = (day: string): number => at(day).getUTCDate();
