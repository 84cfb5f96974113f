/** Emission of hot media: black bodies at the temperatures of a grid, against the hottest that their record is for. */
import {
  BLACKBODY_ENTRIES,
  BLACKBODY_STEP,
  M_TEMPERATURE,
  M_TEMPERATURE_OFFSET,
  M_TEMPERATURE_ROWS,
  M_TEMPERATURE_SCALE,
  M_BLACKBODY_TABLE,
  M_TEMPERATURE_MAX,
} from "../../layout/layout";
import { row, word, wordAddress } from "./state";
import { volumeAt } from "./volume";

/** Set by heatAt(): share of the medium's emission per band. */
export let temperatureR: f64 = 1.0;
export let temperatureG: f64 = 1.0;
export let temperatureB: f64 = 1.0;

/** Looks a point up; without temperatures all emission is there. */
export function temperatureAt(p: usize, x: f64, y: f64, z: f64): void {
  const grid = wordAddress(p, M_TEMPERATURE);
  temperatureR = 1.0;
  temperatureG = 1.0;
  temperatureB = 1.0;
  if (grid == 0) return;
  const v = volumeAt(
    grid,
    row(p, M_TEMPERATURE_ROWS, x, y, z),
    row(p, M_TEMPERATURE_ROWS + 4, x, y, z),
    row(p, M_TEMPERATURE_ROWS + 8, x, y, z),
  );
  const kelvin = Math.min(word(p, M_TEMPERATURE_MAX), Math.max(0.0, v * word(p, M_TEMPERATURE_SCALE) + word(p, M_TEMPERATURE_OFFSET)));
  const at = Math.min(<f64>(BLACKBODY_ENTRIES - 2), Math.floor(kelvin / <f64>BLACKBODY_STEP));
  const f = kelvin / <f64>BLACKBODY_STEP - at;
  const entry = wordAddress(p, M_BLACKBODY_TABLE) + <usize>at * 24;
  temperatureR = load<f64>(entry) + f * (load<f64>(entry, 24) - load<f64>(entry));
  temperatureG = load<f64>(entry, 8) + f * (load<f64>(entry, 32) - load<f64>(entry, 8));
  temperatureB = load<f64>(entry, 16) + f * (load<f64>(entry, 40) - load<f64>(entry, 16));
}
