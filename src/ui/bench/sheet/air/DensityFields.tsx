/** How much air there is: one coefficient, said in whichever way it is thought of. */
import {
  densityForExtinction,
  extinctionForSurviving,
  extinctionForVisibility,
  meanExtinction,
  meanFreePath,
  surviving,
  visibility,
} from "#core/document/medium";
import { NumberField } from "../../../shared/NumberField";
import { useBench } from "../../model/context";
import { MediumGroup } from "../Group";
import type { MediumFields } from "../../model/medium-fields";
import { useLengths } from "../../../shared/units";

export function DensityFields({
  medium,
  reach,
  set,
  distance,
  setDistance,
}: MediumFields & { distance: number; setDistance(d: number): void }) {
  const { store } = useBench();
  const lengths = useLengths();
  const gesture = (a: boolean): void => store.gesture(a);
  const sigma = meanExtinction(medium);
  const toSigma = (v: number): void => set({ density: Number(densityForExtinction(medium, v).toPrecision(6)) });
  const usual = 0.7 / reach;
  const [low, high] = [usual / 50, usual * 50];
  const common = { onGesture: gesture, logarithmic: true } as const;
  const flat = sigma <= 0;
  return (
    <MediumGroup id="density" medium={medium}>
      <NumberField
        {...common}
        label="Extinction"
        unit="1/m"
        quantity="coefficient"
        value={sigma}
        min={0}
        max={1000}
        useful={[low, high]}
        reset={usual}
        tooltip="Share of light lost per metre, by scattering and absorption together. All four numbers of this group say the same thing."
        onChange={toSigma}
      />
      <NumberField
        {...common}
        label="Mean free path"
        unit="m"
        quantity="length"
        value={flat ? Infinity : meanFreePath(sigma)}
        min={1e-3}
        max={1e6}
        useful={[1 / high, 1 / low]}
        reset={1 / usual}
        tooltip="How far light travels on average before it meets a particle."
        onChange={(v) => toSigma(1 / v)}
      />
      <NumberField
        {...common}
        label="Visibility"
        unit="m"
        quantity="length"
        value={flat ? Infinity : visibility(sigma)}
        min={1e-3}
        max={1e6}
        useful={[3 / high, 3 / low]}
        reset={3 / usual}
        tooltip="Where contrast has fallen to 5 percent, the meteorologists' visual range."
        onChange={(v) => toSigma(extinctionForVisibility(v))}
      />
      <div className="[&>div]:grid-cols-[10.4rem_1fr]">
        <NumberField
          label={`Transmittance over ${lengths.exact(distance, 3)}`}
          quantity="share"
          value={surviving(sigma, distance)}
          min={1e-6}
          max={1}
          useful={[0, 1]}
          step={0.005}
          reset={0.5}
          onGesture={gesture}
          tooltip="Share of light that is left after the reference distance."
          onChange={(v) => toSigma(extinctionForSurviving(Math.max(v, 1e-6), distance))}
        />
      </div>
      <NumberField
        {...common}
        label="Reference distance"
        unit="m"
        quantity="length"
        value={distance}
        min={0.01}
        max={1e5}
        useful={[reach / 100, reach]}
        reset={10}
        tooltip="Distance over which transmittance and transmitted colour are told. It changes nothing in the air."
        onChange={setDistance}
        onGesture={() => undefined}
      />
    </MediumGroup>
  );
}
