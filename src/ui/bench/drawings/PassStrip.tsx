/** Small pictures of every pass, and of what each light gives the air; a click shows one large. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { samplesSoFar } from "#core/film/film";
import { PASS_NAMES, PASSES, type PassName } from "#core/film/passes";
import { contextOf } from "../../shared/canvas";
import { Latest } from "../../shared/latest";
import { useBench, useView } from "../model/context";
import type { Developed, Looked } from "../model/film-readings";
import { useShownFilm } from "../model/use-shown-film";

/** Most pixels across a small picture. */
const ACROSS = 160;
/** Milliseconds from one set of small pictures to the next: the film's worker has the large one to do. */
const REST = 1000;

interface Tile {
  pass: PassName;
  light: string | null;
}

const keyOf = ({ pass, light }: Tile): string => (light === null ? pass : `${pass} of ${light}`);

export default function PassStrip() {
  const { view, session } = useBench();
  const { pass, light, clear, front } = useView((s) => s);
  const [problem, setProblem] = useState<string | null>(null);
  const failed = useCallback((message: string) => setProblem(message), []);
  const shown = useShownFilm(front, failed);
  const [pictures, setPictures] = useState<Record<string, Developed>>({});
  const asked = useMemo(
    () =>
      new Latest<{ of: Looked; tiles: readonly Tile[] }>(async ({ of, tiles }) => {
        try {
          const done = await session.films.small(
            of.film,
            tiles.map((tile) => ({ ...of.look, ...tile })),
            ACROSS,
          );
          if (!session.overwritten(of.film)) setPictures(Object.fromEntries(tiles.map((tile, i) => [keyOf(tile), done[i]!])));
        } catch (error) {
          setProblem((error as Error).message);
        }
        await new Promise((rested) => setTimeout(rested, REST));
      }),
    [session],
  );
  useEffect(() => () => asked.clear(), [asked]);
  const groups = shown?.film.lights.join("\n") ?? "";
  const tiles = useMemo<Tile[]>(
    () => [
      ...PASS_NAMES.map((name) => ({ pass: name, light: null })),
      ...(groups === "" ? [] : groups.split("\n")).map((name) => ({ pass: "air" as const, light: name })),
    ],
    [groups],
  );
  useEffect(() => {
    if (shown) asked.ask({ of: shown, tiles });
  }, [asked, shown, tiles]);
  const noClear = shown !== null && samplesSoFar(shown.film, true) === 0;
  const current = keyOf({ pass: clear ? "clear" : pass, light: clear ? null : light });

  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Passes"
      className="flex shrink-0 flex-col border-t hair bg-base-100 text-sm outline-none"
    >
      <header className="flex items-center gap-3 border-b hair px-3 py-1">
        <h2 className="font-semibold">Passes</h2>
        <span className="text-xs quiet">
          {groups === ""
            ? front === "live"
              ? "The next picture keeps the lights apart."
              : "This proof does not keep the lights apart."
            : "Last: what each light gives the air."}
        </span>
        {problem && (
          <span role="alert" className="text-xs text-error">
            {problem}
          </span>
        )}
        <button className="btn btn-xs btn-ghost ml-auto" onClick={() => view.toggleBelow("passes")}>
          Close
        </button>
      </header>
      <div className="flex gap-2 overflow-x-auto px-3 py-2">
        {tiles.map((tile) => {
          const key = keyOf(tile);
          return (
            <button
              key={key}
              aria-pressed={key === current}
              title={tile.light === null ? PASSES[tile.pass].tooltip : `Light of ${tile.light} that the air sends to the lens.`}
              className={`w-32 shrink-0 text-left text-xs outline-offset-2 ${key === current ? "outline outline-primary" : "hover:outline hover:outline-base-content/30"}`}
              onClick={() => view.setState({ ...tile, clear: false })}
            >
              <span className="relative block">
                <Small picture={pictures[key]} />
                {tile.pass === "clear" && noClear && (
                  <span className="absolute inset-0 flex items-center justify-center quiet">rendered when shown</span>
                )}
              </span>
              <span className="flex justify-between gap-2 px-1">
                <span className="truncate">{tile.light ?? PASSES[tile.pass].words}</span>
                <span className="quiet shrink-0">{tile.light === null ? PASSES[tile.pass].unit : "air"}</span>
              </span>
            </button>
          );
        })}
      </div>
    </section>
  );
}

function Small({ picture }: { picture: Developed | undefined }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current;
    if (!c || !picture) return;
    c.width = picture.width;
    c.height = picture.height;
    contextOf(c).putImageData(new ImageData(picture.pixels, picture.width, picture.height), 0, 0);
  }, [picture]);
  return (
    <canvas
      ref={canvas}
      aria-hidden
      width={16}
      height={9}
      data-there={picture ? "yes" : "no"}
      className="h-[72px] w-full bg-base-200 object-contain"
    />
  );
}
