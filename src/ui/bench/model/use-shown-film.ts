/** The film of what is shown, live or a proof, with how it is developed. */
import { useEffect, useMemo, useState } from "react";
import { useStore } from "zustand";
import type { Film } from "#core/film/film";
import { useBench, useDocument, useLut, useSession, useView } from "./context";
import type { Looked } from "./film-readings";
import type { Shown } from "./view";

/** Null until it is there. @param onError told where a proof's film cannot be had */
export function useShownFilm(what: Shown, onError: (message: string) => void): Looked | null {
  const { session, proofs } = useBench();
  const tick = useSession((s) => (what === "live" ? s.exposure : 0));
  const raw = useView((s) => s.raw || !s.clean);
  const live = useDocument();
  const kept = useStore(proofs.state, (s) => s.documents[what]);
  const made = what === "live" ? live : kept;
  const lut = useLut(made ?? live);
  const [loaded, setLoaded] = useState<{ of: Shown; film: Film } | null>(null);
  useEffect(() => {
    if (what === "live") return;
    let current = true;
    proofs.film(what)?.then(
      (film) => current && setLoaded({ of: what, film }),
      (e: unknown) => current && onError((e as Error).message),
    );
    return () => {
      current = false;
    };
  }, [what, proofs, onError]);
  return useMemo(() => {
    // the live film is another object with every picture of it
    const film = what === "live" ? (tick > 0 ? session.shown() : null) : loaded?.of === what ? loaded.film : null;
    if (!film || !made) return null;
    const { exposure, whiteBalance, tint, finish, balance } = made.film;
    return {
      film: raw ? { ...film, cleaned: null } : film,
      look: { pass: "beauty", tones: "picture", exposure, whiteBalance, tint, finish, balance, lut },
    };
  }, [what, tick, session, loaded, made, raw, lut]);
}
