/** Development of the composed picture: as on the bench. */
import { useContext } from "react";
import type { Stack } from "#core/compose/stack";
import { GestureContext } from "../shared/gesture";
import { Num } from "../shared/Num";
import { GlareFields } from "../shared/finish/GlareFields";
import { ToneFields, type FinishFields as Fields } from "../shared/finish/ToneFields";
import { Fold } from "./Fold";
import { useComposition, useStack } from "./model/context";

export function FinishFields() {
  const { store } = useComposition();
  const film = useStack((s) => s.film);
  const gesture = useContext(GestureContext);
  const set = (change: Partial<Stack["film"]>): void => store.getState().set((s) => ({ ...s, film: { ...s.film, ...change } }));
  const fields: Fields = { finish: film.finish, set: (change) => set({ finish: { ...film.finish, ...change } }), gesture };
  return (
    <>
      <Fold title="Exposure" says={`EV ${film.exposure}`}>
        <Num
          label="Exposure"
          unit="EV"
          quantity="ev"
          value={film.exposure}
          min={-20}
          max={30}
          useful={[0, 17]}
          step={0.05}
          reset={12}
          tooltip="Exposure value at ISO 100: one more halves the brightness. Blends go by the white that the stack began with."
          onChange={(exposure) => set({ exposure })}
        />
        <Num
          label="White balance"
          unit="K"
          quantity="temperature"
          value={film.whiteBalance}
          min={1500}
          max={30000}
          useful={[2500, 10000]}
          step={25}
          reset={6500}
          tooltip="Colour temperature of the light that should look neutral."
          onChange={(whiteBalance) => set({ whiteBalance })}
        />
        <Num
          label="Tint"
          unit="Duv"
          value={film.tint}
          min={-0.05}
          max={0.05}
          useful={[-0.02, 0.02]}
          step={0.0002}
          reset={0}
          tooltip="How far the light that should look neutral lies from white light's line."
          onChange={(tint) => set({ tint })}
        />
      </Fold>
      <Fold title="Finish" says={film.finish.on ? "" : "off"}>
        <ToneFields {...fields} />
      </Fold>
      <Fold title="Glare" says={film.finish.glare.halo + film.finish.glare.starburst > 0 ? "on" : "none"}>
        <GlareFields {...fields} />
      </Fold>
    </>
  );
}
