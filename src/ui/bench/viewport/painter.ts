/** Puts films on a canvas as another thread develops them: one at a time, and of those asked for meanwhile the last. */
import { cleanedSides } from "#core/film/cleaned";
import { Latest } from "../../shared/latest";
import { frameOfFilm, type Film } from "#core/film/film";
import type { Developed, FilmReader, Look } from "../model/film-readings";

/** What is to be drawn; `tick` is the development it is of. */
export interface Wanted {
  film: Film;
  look: Look;
  tick: number;
}

export class Painter {
  private readonly asked = new Latest<Wanted>((w) => this.draw(w));
  private gone = false;
  /** What the picture on the canvas was made of, where that does not change by itself. */
  private made: unknown[] | null = null;

  /** @param put draws what was developed @param overwritten whether a film is another run's by now @param told of each picture that is on the canvas, and whether it is what was asked for last */
  constructor(
    private readonly films: FilmReader,
    private readonly put: (picture: Developed) => void,
    private readonly overwritten: (film: Film) => boolean,
    private readonly told: { drawn(tick: number, newest: boolean): void; failed(error: Error): void },
  ) {}

  ask(wanted: Wanted): void {
    this.asked.ask(wanted);
  }

  dispose(): void {
    this.gone = true;
    this.asked.clear();
  }

  private async draw(w: Wanted): Promise<void> {
    try {
      const made = materialOf(w);
      if (!made || !this.made?.every((v, i) => v === made[i])) {
        const picture = await this.films.developed(w.film, w.look);
        // the next run asks for a picture of its own; what is cleaned stays as it was
        if (this.gone || (!made && this.overwritten(w.film))) return;
        this.put(picture);
        this.made = made;
      }
      this.told.drawn(w.tick, !this.asked.waiting);
    } catch (error) {
      if (!this.gone) this.told.failed(error as Error);
    }
  }
}

/** What a picture is made of, where the same things make the same picture: cleaned light is not added to as rendered light is. */
function materialOf({ film, look }: Wanted): unknown[] | null {
  const sides = cleanedSides(film, look.pass);
  if (!sides || look.tones !== "picture") return null;
  const { lights } = film.cleaned!;
  const { x, y, width, height } = frameOfFilm(film);
  return [
    sides[0],
    sides[1],
    lights,
    look.pass,
    look.exposure,
    look.whiteBalance,
    look.tint,
    look.finish,
    look.balance,
    look.light,
    look.lut,
    look.half,
    film.width,
    film.height,
    x,
    y,
    width,
    height,
    ...film.crop,
  ];
}
