/** How many samples a pixel gets, and what may end it before. */
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { useBench, useDocument } from "../model/context";
import { Num } from "../../shared/Num";
import { Select, Switch } from "../../shared/controls";

export function SamplingFields() {
  const { store } = useBench();
  const { render } = useDocument();
  const set = (c: Partial<SceneDocument["render"]>): void => store.getState().set((d) => ({ ...d, render: { ...d.render, ...c } }));
  return (
    <>
      <Num
        label="Samples"
        quantity="count"
        value={render.samples}
        min={1}
        max={LIMITS.samples}
        useful={[16, 2048]}
        logarithmic
        whole
        reset={256}
        tooltip="Samples per pixel at which the picture is done. Four times as many halve the noise."
        onChange={(samples) => set({ samples })}
      />
      <Switch
        label="Adaptive sampling"
        on={render.noiseThreshold !== null}
        tooltip="Pixels below the noise threshold get no more samples, so that time goes where noise is."
        onChange={(on) => set({ noiseThreshold: on ? 0.02 : null })}
      />
      {render.noiseThreshold !== null && (
        <>
          <Num
            label="Noise threshold"
            quantity="share"
            value={render.noiseThreshold}
            min={0.0005}
            max={1}
            useful={[0.002, 0.1]}
            logarithmic
            reset={0.02}
            tooltip="Standard error of a pixel, as a share of its brightness, below which sampling stops."
            onChange={(noiseThreshold) => set({ noiseThreshold })}
          />
          <Select
            label="Threshold for"
            value={render.thresholdOf}
            options={[
              ["rendered", "rendered picture"],
              ["cleaned", "cleaned picture"],
            ]}
            tooltip="Which picture must come below the threshold: as it is rendered, or as the clean-up leaves it, which takes far fewer samples."
            onChange={(thresholdOf) => set({ thresholdOf })}
          />
          <Num
            label="Min samples"
            quantity="count"
            value={render.minSamples}
            min={2}
            max={LIMITS.samples}
            useful={[4, 128]}
            logarithmic
            whole
            reset={16}
            tooltip="Samples before the threshold is applied. With too few, a pixel that has not yet met rare light stops too early."
            onChange={(minSamples) => set({ minSamples })}
          />
        </>
      )}
      <Num
        label="Indirect roughness"
        value={render.indirectRoughness}
        min={0}
        max={1}
        useful={[0, 1]}
        step={0.05}
        reset={0}
        tooltip="Roughness that surfaces have at least for light that is scattered again before it reaches the lens. Keeps rare glints out at little cost of light; 0 is unbiased."
        onChange={(indirectRoughness) => set({ indirectRoughness })}
      />
      <Switch
        label="Clamp fireflies"
        on={render.fireflyClamp !== null}
        tooltip="Limits single samples far above white: fewer fireflies, a little light is lost. Off is unbiased."
        onChange={(on) => set({ fireflyClamp: on ? 20 : null })}
      />
      {render.fireflyClamp !== null && (
        <Num
          label="Clamp level"
          unit="× white"
          value={render.fireflyClamp}
          min={0.01}
          max={1e6}
          useful={[1, 1000]}
          logarithmic
          reset={20}
          tooltip="Max value of one sample, in multiples of the exposure's white."
          onChange={(fireflyClamp) => set({ fireflyClamp })}
        />
      )}
    </>
  );
}
