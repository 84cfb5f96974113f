/** Whose turn it is: of jobs of the highest priority, the one that has got least for its share. */

export interface Job {
  id: string;
  /** Of two, the higher goes first. */
  priority: number;
}

export class Shares {
  /** Thread seconds that each has got. */
  private readonly got = new Map<string, number>();

  /** One that is new has got as much as the one that got least: it is not owed what was before it. */
  private gotBy(id: string): number {
    const own = this.got.get(id);
    if (own !== undefined) return own;
    const least = this.got.size > 0 ? Math.min(...this.got.values()) : 0;
    this.got.set(id, least);
    return least;
  }

  /**
   * @param jobs that have something to be done @param present the one that a machine is at: it stays with it while that has got no more than
   * `slack` above the others, since another scene costs time
   * @returns null where there is none
   */
  choose<J extends Job>(jobs: readonly J[], present: string | null, slack: number): J | null {
    // one that has nothing to do now keeps its place only as long as it is there
    const highest = jobs.reduce((most, j) => Math.max(most, j.priority), -Infinity);
    const rivals = jobs.filter((j) => j.priority === highest);
    const [least] = rivals.slice().sort((a, b) => this.gotBy(a.id) - this.gotBy(b.id));
    if (!least) return null;
    const own = rivals.find((j) => j.id === present);
    return own && this.gotBy(own.id) - this.gotBy(least.id) <= slack ? own : least;
  }

  /** What is handed out counts, and what comes back undone is taken off. */
  count(id: string, seconds: number): void {
    this.got.set(id, Math.max(0, this.gotBy(id) + seconds));
  }

  forget(id: string): void {
    this.got.delete(id);
  }
}
