/** What the air glows with and what it leaves of light that passes. */
import { absorptionForColour, colourLeft, recoloured, scatteringAlbedo } from "#core/document/medium";
import { ColourField, cssColour } from "../../../shared/ColourField";
import { useBench } from "../../model/context";
import { MediumGroup } from "../Group";
import { Readout } from "../../../shared/controls";
import type { MediumFields } from "../../model/medium-fields";
import { useLengths } from "../../../shared/units";

export function ColourFields({ medium, set, distance }: MediumFields & { distance: number }) {
  const { store } = useBench();
  const lengths = useLengths();
  const gesture = (a: boolean): void => store.gesture(a);
  const albedo = scatteringAlbedo(medium),
    left = colourLeft(medium, distance);
  return (
    <MediumGroup id="colour" medium={medium}>
      <ColourField
        label="Scattering"
        value={medium.scattering}
        reset={[1, 1, 1]}
        onGesture={gesture}
        tooltip="Share of each colour that the air scatters. The air is seen in this colour, and light that passes loses it. Extinction stays: a colour never makes the air thicker or thinner."
        onChange={(scattering) => set(recoloured(medium, { scattering }))}
      />
      <Readout label="Scattered colour">
        <Swatch colour={albedo} words="in white light" />
      </Readout>
      <ColourField
        label="Absorption"
        max={100}
        value={medium.absorption}
        reset={[0, 0, 0]}
        onGesture={gesture}
        tooltip="Share of each colour that the air absorbs. It darkens both the light that passes and the light that is scattered. Extinction stays: what is absorbed is scattered no more."
        onChange={(absorption) => set(recoloured(medium, { absorption }))}
      />
      <ColourField
        label="Transmitted colour"
        value={left}
        reset={[1, 1, 1]}
        onGesture={gesture}
        tooltip="Colour of white light after the reference distance: absorption is set to match, scattering and density stay. Where scattering already removes more, the hue is met and the light is dimmer."
        onChange={(colour) =>
          set({
            absorption: absorptionForColour(medium, colour, distance).map((v) => Number(v.toPrecision(5))) as [number, number, number],
          })
        }
      />
      <Readout label={`After ${lengths.exact(distance, 3)}`}>
        <Swatch colour={left} words="is left of white light" />
      </Readout>
    </MediumGroup>
  );
}

function Swatch({ colour, words }: { colour: readonly number[]; words: string }) {
  return (
    <span className="flex items-center gap-2 text-xs quiet">
      <span className="inline-block h-4 w-8 shrink-0 border hair" style={{ background: cssColour(colour) }} />
      {words}
    </span>
  );
}
