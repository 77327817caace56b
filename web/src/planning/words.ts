import { figure } from '@wellmorph/core/units/lengths';

/** Minutes as people say them: `40 min`, `3.5 h`. */
export const inMinutes = (m: number): string => (m < 90 ? `${figure(Math.max(m > 0 ? 1 : 0, m), 0)} min` : `${figure(m / 60, 1)} h`);

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
