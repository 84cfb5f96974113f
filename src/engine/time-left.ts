/** How long a run still takes, by the speed of its later half: what is only done once at its beginning says nothing of the rest. */

export class TimeLeft {
  /** Seconds and work after each stage; the beginning first. */
  private readonly marks: { seconds: number; work: number }[] = [{ seconds: 0, work: 0 }];

  /**
   * @param seconds since the beginning @param work done by then, in any unit @param total of it
   * @returns seconds left; null before there is anything to tell by
   */
  after(seconds: number, work: number, total: number): number | null {
    if (!(work > 0)) return null;
    const from = this.marks.findLast((m) => m.work <= work / 2)!;
    this.marks.push({ seconds, work });
    return ((seconds - from.seconds) / (work - from.work)) * Math.max(0, total - work);
  }
}
