import type { News } from '@/server/events';

/** News of the server, and that some may have been missed. */
export type Heard = News | { kind: 'again' };

const LOCK = 'wellmorph-news';

/**
 * One stream of news for all pages of a browser: the page that holds the lock listens to the server and tells the others; when it goes,
 * another takes over. After a break everything that may have been missed is asked for again.
 */
export class NewsFeed {
  private source: EventSource | null = null;
  private channel: BroadcastChannel | null = null;
  private release: () => void = () => {};
  private ended = false;

  constructor(private readonly hear: (news: Heard) => void) {}

  start(): void {
    this.channel = new BroadcastChannel(LOCK);
    this.channel.onmessage = (e: MessageEvent<Heard>) => this.hear(e.data);
    const held = new Promise<void>((resolve) => {
      this.release = resolve;
    });
    if (!navigator.locks) this.listen();
    else
      void navigator.locks.request(LOCK, async () => {
        if (this.ended) return;
        this.listen();
        await held;
      });
  }

  private listen(): void {
    let broken = false;
    const tell = (news: Heard) => {
      this.hear(news);
      this.channel?.postMessage(news);
    };
    this.source = new EventSource('/api/events');
    this.source.onmessage = (e) => tell(JSON.parse(e.data) as News);
    this.source.onerror = () => {
      broken = true;
    };
    this.source.onopen = () => {
      if (broken) tell({ kind: 'again' });
      broken = false;
    };
    // Whoever takes over doesn’t know what was told in between.
    tell({ kind: 'again' });
  }

  close(): void {
    this.ended = true;
    this.source?.close();
    this.channel?.close();
    this.release();
  }
}
