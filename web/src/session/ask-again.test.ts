import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { describe, expect, it } from 'vitest';
import { askAgain } from './ask-again';

/** A list on a server whose answers are as slow as is wanted: each is what was stored when it was asked for. */
function served() {
  const queries = new QueryClient();
  const server = { stored: ['first'], slow: false, asked: 0, late: [] as (() => void)[] };
  const list = new QueryObserver(queries, {
    queryKey: ['states', 'a'],
    queryFn: () => {
      const answer = server.stored;
      server.asked++;
      return server.slow ? new Promise<string[]>((resolve) => server.late.push(() => resolve(answer))) : Promise.resolve(answer);
    },
  });
  const answerAll = () => {
    for (const answer of server.late.splice(0)) answer();
  };
  return { queries, server, list, answerAll };
}

describe('asking again after a change', () => {
  it('a first answer that was under way is of before: it is asked again, once however often that is wanted', async () => {
    const { queries, server, list, answerAll } = served();
    server.slow = true;
    const gone = list.subscribe(() => {});
    server.stored = ['first', 'second'];
    server.slow = false;
    const again = Promise.all([1, 2, 3].map(() => askAgain(queries, 'states')));
    answerAll();
    await again;
    expect(list.getCurrentResult().data).toEqual(['first', 'second']);
    expect(server.asked).toBe(2);
    gone();
  });
  it('so is a later one, which is not waited for', async () => {
    const { queries, server, list, answerAll } = served();
    const gone = list.subscribe(() => {});
    await list.refetch();
    server.slow = true;
    void list.refetch();
    server.stored = ['first', 'second'];
    server.slow = false;
    await askAgain(queries, 'states');
    answerAll();
    await new Promise((resolve) => setTimeout(resolve, 10));
    expect(list.getCurrentResult()).toMatchObject({ data: ['first', 'second'], fetchStatus: 'idle' });
    gone();
  });
  it('nothing is asked for that nobody looks at', async () => {
    const { queries } = served();
    let asked = 0;
    await queries.fetchQuery({ queryKey: ['runs'], queryFn: () => ++asked });
    await askAgain(queries, 'runs');
    expect(asked).toBe(1);
  });
});
