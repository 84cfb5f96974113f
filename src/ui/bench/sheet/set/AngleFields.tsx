/** The angle of a lens, as degrees and as a focal length: two fields of one number. */
import { NumberField } from "../../../shared/NumberField";

/** Height of the picture on a film of 36 mm × 24 mm held level, mm: what focal lengths are told against. */
const FILM_HEIGHT = 24;
export const focalOf = (fieldOfView: number): number => FILM_HEIGHT / 2 / Math.tan((fieldOfView * Math.PI) / 360);
const fieldOf = (focal: number): number => (360 / Math.PI) * Math.atan(FILM_HEIGHT / 2 / focal);

export function AngleFields(p: {
  /** What the fields are called: the angle, and the focal length. */
  names: readonly [angle: string, focal: string];
  /** Vertical, degrees. */
  value: number;
  tooltip: string;
  onGesture(active: boolean): void;
  onChange(fieldOfView: number): void;
}) {
  return (
    <>
      <NumberField
        label={p.names[0]}
        unit="°"
        quantity="angle"
        value={p.value}
        min={0.1}
        max={170}
        useful={[10, 100]}
        step={0.25}
        reset={45}
        onGesture={p.onGesture}
        tooltip={p.tooltip}
        onChange={p.onChange}
      />
      <NumberField
        logarithmic
        label={p.names[1]}
        unit="mm"
        value={Number(focalOf(p.value).toPrecision(4))}
        min={1.1}
        max={13000}
        useful={[14, 200]}
        reset={35}
        onGesture={p.onGesture}
        tooltip="The same angle as a focal length before a picture 24 mm high."
        onChange={(focal) => p.onChange(Number(Math.max(0.1, Math.min(170, fieldOf(focal))).toPrecision(5)))}
      />
    </>
  );
}
