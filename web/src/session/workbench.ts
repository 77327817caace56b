import { QueryClient } from '@tanstack/react-query';
import type { Command } from '@wellmorph/core/pipeline/commands/index';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { createStore } from 'zustand/vanilla';
import type { QueuedJob } from '@/server/jobs/queue';
import { Pool } from '@/workers/pool';
import { askAgain } from './ask-again';
import { BlobCache } from './blobs';
import type { Outcome } from './lane';
import { LaneStore } from './lane-store';
import { type Heard, NewsFeed } from './news';
import { Pace } from './pace';
import { ResultStore } from './results';
import type { StageTasks, Tools } from './run-stage';
import { AssetSession } from './session';
import type { JobView } from './state';
import type { FormTask } from './tasks';

export interface Notice {
  id: number;
  level: 'info' | 'error';
  text: string;
}
export interface BenchState {
  notices: Notice[];
  /** What is being computed on this page, for whichever asset. */
  jobs: JobView[];
}

/** A sheet that was left is kept this long in case it is come back to, ms. */
const LINGER = 3000;
/** How long a notice stands, ms. */
const STANDS = { info: 5000, error: 12_000 } as const;

/**
 * Everything of a page that belongs to no single asset: workers, files and results at hand, the stream of news, and the sessions of the
 * assets that are open or have something under way.
 */
export class Workbench implements Tools {
  readonly queries = new QueryClient({
    defaultOptions: {
      queries: { networkMode: 'always', retry: false, refetchOnWindowFocus: false, refetchOnReconnect: false },
      mutations: { networkMode: 'always', retry: false },
    },
  });
  readonly blobs = new BlobCache();
  readonly results = new ResultStore(this.queries);
  readonly pool = new Pool();
  readonly pace = new Pace();
  readonly store = createStore<BenchState>(() => ({ notices: [], jobs: [] }));
  onScreen: AssetSession | null = null;
  private readonly sessions = new Map<string, AssetSession>();
  private readonly leaving = new Map<string, ReturnType<typeof setTimeout>>();
  private laneStore: LaneStore | null = null;
  private news: NewsFeed | null = null;
  private noticeId = 1;

  constructor(
    readonly tasks: Omit<StageTasks, 'form'> & { form: FormTask },
    private readonly database?: string,
  ) {}

  /** What pages keep of what they asked for; under a new id each time the page is loaded. */
  get lanes(): LaneStore {
    this.laneStore ??= new LaneStore(crypto.randomUUID(), this.database);
    return this.laneStore;
  }

  /** Begins to listen, and sends what pages that are gone left unsent. */
  start(): void {
    if (this.news) return;
    this.news = new NewsFeed((news) => this.heard(news));
    this.news.start();
    globalThis.addEventListener?.('online', this.poke);
    void this.lanes.orphaned().then((assets) => {
      for (const id of assets) this.leave(this.session(id));
    });
  }

  /** The session of an asset; there is one of each at most. */
  session(id: string): AssetSession {
    let known = this.sessions.get(id);
    if (!known) {
      known = new AssetSession(id, this);
      this.sessions.set(id, known);
    }
    void known.open();
    return known;
  }

  /** Makes one change to an asset that isn’t open, in the order of all others. @throws InputError when it can’t be made to it */
  async change(id: string, command: Command | ((document: AssetDocument) => Command)): Promise<Outcome> {
    const session = this.session(id);
    try {
      await session.open();
      if (session.state.missing) return { done: false, why: session.state.missing, code: 'asset/missing' };
      if (!session.document) return { done: false, why: 'This asset could not be opened.', code: 'asset/unread' };
      return await session.ask({ kind: 'edit', command: typeof command === 'function' ? command(session.document) : command });
    } finally {
      if (this.onScreen !== session) this.leave(session);
    }
  }

  /** Opens an asset’s sheet. */
  open(id: string): AssetSession {
    clearTimeout(this.leaving.get(id));
    this.leaving.delete(id);
    const session = this.session(id);
    this.onScreen = session;
    return session;
  }

  /** Leaves an asset’s sheet: what is under way goes on, and then everything of it is let go. */
  leave(session: AssetSession): void {
    if (this.onScreen === session) this.onScreen = null;
    clearTimeout(this.leaving.get(session.id));
    const look = () => {
      if (this.onScreen === session) return;
      if (!session.isIdle) return void this.leaving.set(session.id, setTimeout(look, LINGER));
      this.leaving.delete(session.id);
      if (this.sessions.get(session.id) === session) this.sessions.delete(session.id);
      session.close();
    };
    this.leaving.set(session.id, setTimeout(look, LINGER));
  }

  /** Whether something waits to be stored, of any asset. */
  get hasUnsent(): boolean {
    return [...this.sessions.values()].some((s) => s.lane.unsent > 0);
  }

  notify = (text: string, level: Notice['level'] = 'info'): void => {
    const id = this.noticeId++;
    this.store.setState((s) => ({ notices: [...s.notices.slice(-3), { id, level, text }] }));
    const timer = setTimeout(() => this.dismiss(id), STANDS[level]);
    (timer as { unref?: () => void }).unref?.();
  };
  dismiss = (id: number): void => this.store.setState((s) => ({ notices: s.notices.filter((n) => n.id !== id) }));

  /** A job began, moved on or ended. */
  jobChanged(job: JobView | null, id: number): void {
    this.store.setState((s) => {
      const rest = s.jobs.filter((j) => j.id !== id);
      return { jobs: job ? [...rest, job].sort((a, b) => a.id - b.id) : rest };
    });
  }

  private readonly poke = (): void => {
    for (const s of this.sessions.values()) s.lane.poke();
  };

  /** What lists the pieces of the Workshop is asked for again. */
  private listed(): void {
    for (const key of ['cards', 'pieces', 'plan']) this.askAgain(key);
  }

  private askAgain(key: string): void {
    void askAgain(this.queries, key);
  }

  private heard(news: Heard): void {
    switch (news.kind) {
      case 'again':
        this.poke();
        this.listed();
        for (const key of ['queue', 'runs', 'lessons', 'snags', 'states', 'plan']) this.askAgain(key);
        for (const s of this.sessions.values()) if (s.document) void s.refresh().catch(() => {});
        break;
      case 'asset': {
        this.listed();
        const s = this.sessions.get(news.asset);
        if (s && news.clientId !== this.lanes.clientId && news.version > s.version) void s.refresh().catch(() => {});
        break;
      }
      case 'assets':
        this.listed();
        break;
      case 'result':
        this.listed();
        for (const s of this.sessions.values()) s.heardOf(news.name);
        break;
      case 'trial':
        for (const key of ['runs', 'states', 'plan']) this.askAgain(key);
        void this.sessions.get(news.asset)?.refreshTrials();
        break;
      case 'snags':
        for (const key of ['snags', 'plan']) this.askAgain(key);
        break;
      case 'logbook':
        for (const key of ['lessons', 'filters']) this.askAgain(key);
        break;
      case 'plan':
        this.askAgain('plan');
        break;
      case 'job':
        if (news.state !== 'running') for (const key of ['queue', 'runs']) this.askAgain(key);
        else
          this.queries.setQueryData<QueuedJob[]>(['queue'], (list) =>
            list?.map((j) =>
              j.id === news.job ? { ...j, state: 'running', share: news.share, words: news.words, secondsLeft: news.secondsLeft } : j,
            ),
          );
        break;
    }
  }

  /** For when the page goes, and for tests. */
  async close(): Promise<void> {
    globalThis.removeEventListener?.('online', this.poke);
    this.news?.close();
    this.news = null;
    for (const timer of this.leaving.values()) clearTimeout(timer);
    for (const s of this.sessions.values()) s.close();
    this.sessions.clear();
    this.queries.clear();
    await this.laneStore?.close();
    this.laneStore = null;
  }
}
