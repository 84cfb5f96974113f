/** Looks again and again at what an engine's workers are at: of the looks is found where the time goes. Looking takes nothing of the workers' time. */
import { addLook, noLooks, type Looks } from "#core/budget/time-shares";
import type { Film } from "#core/film/film";
import type { RenderEngine } from "./engine";

/** Milliseconds from one look to the next. */
const EVERY = 4;

export class ActivityMeter {
  private looks = noLooks();
  private timer: ReturnType<typeof setInterval> | undefined;

  /** @param size of the film that the engine renders, in pixels */
  constructor(
    private readonly engine: () => Pick<RenderEngine, "activity"> | null,
    private readonly size: () => Pick<Film, "width" | "height"> | null,
  ) {}

  /** Begins to look, or begins anew. */
  start(): void {
    this.stop();
    this.looks = noLooks();
    this.timer = setInterval(() => {
      const activity = this.engine()?.activity(),
        film = this.size();
      if (activity && film) addLook(this.looks, activity, film.width, film.height);
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
