/** Looks again and again at what an engine's workers are at: of the looks is found where the time goes. Looking takes nothing of the workers' time. */
import { addLook, noLooks, type Looks } from "#core/budget/time-shares";
import type { RenderEngine } from "./engine";

/** Milliseconds from one look to the next. */
const EVERY = 4;

export class ActivityMeter {
  private looks = noLooks();
  private timer: ReturnType<typeof setInterval> | undefined;

  constructor(private readonly engine: () => Pick<RenderEngine, "activity"> | null) {}

  /** Begins to look, or begins anew. */
  start(): void {
    this.stop();
    this.looks = noLooks();
    this.timer = setInterval(() => {
      const activity = this.engine()?.activity();
      if (activity) addLook(this.looks, activity);
    }, EVERY);
  }

  stop(): void {
    clearInterval(this.timer);
    this.timer = undefined;
  }

  /** What was seen since it began. */
  get seen(): Looks {
    return this.looks;
  }
}
