/** One piece of work at a time, and of those asked for meanwhile only the last. */
export class Latest<T> {
  private next: { what: T } | null = null;
  private busy = false;

  /** @param work what is done; it answers for its own errors */
  constructor(private readonly work: (what: T) => Promise<void>) {}

  ask(what: T): void {
    this.next = { what };
    if (!this.busy) void this.run();
  }

  /** Whether more has been asked for than is under way. */
  get waiting(): boolean {
    return this.next !== null;
  }

  /** Forgets what waits. */
  clear(): void {
    this.next = null;
  }

  private async run(): Promise<void> {
    this.busy = true;
    try {
      for (let next = this.take(); next; next = this.take()) await this.work(next.what);
    } finally {
      this.busy = false;
    }
  }

  private take(): { what: T } | null {
    const { next } = this;
    this.next = null;
    return next;
  }
}
