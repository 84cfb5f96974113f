/** Puts the sun where it stands at a date, time and place. Helps only: the document keeps the angles. */
import { useState } from "react";
import { solarPosition } from "#core/optics/solar";
import { NumberField } from "../../../shared/NumberField";

export function DateHelper({ onChange }: { onChange(angles: { azimuth: number; elevation: number }): void }) {
  const [day, setDay] = useState("2026-06-21");
  const [hour, setHour] = useState("08:00");
  const [zone, setZone] = useState(0);
  const [latitude, setLatitude] = useState(50);
  const [longitude, setLongitude] = useState(0);
  const [north, setNorth] = useState(0);
  const time = Date.parse(`${day}T${hour}:00Z`) - zone * 3_600_000;
  const place = Number.isFinite(time) ? solarPosition(time, latitude, longitude) : null;
  const angle = (label: string, value: number, max: number, tooltip: string, set: (v: number) => void, step = 0.5) => (
    <NumberField
      label={label}
      unit="°"
      quantity="angle"
      value={value}
      min={-max}
      max={max}
      step={step}
      reset={0}
      tooltip={tooltip}
      onChange={set}
    />
  );
  return (
    <details className="text-sm">
      <summary className="cursor-pointer quiet">By date, time and place</summary>
      <div className="space-y-1 border-l hair py-1 pl-2.5">
        <div className="grid grid-cols-2 gap-2">
          <input type="date" aria-label="Date" className="input input-xs w-full" value={day} onChange={(e) => setDay(e.target.value)} />
          <input type="time" aria-label="Time" className="input input-xs w-full" value={hour} onChange={(e) => setHour(e.target.value)} />
        </div>
        <NumberField
          label="UTC offset"
          unit="h"
          value={zone}
          min={-12}
          max={14}
          step={0.5}
          reset={0}
          tooltip="Hours that local time is ahead of UTC."
          onChange={setZone}
        />
        {angle("Latitude", latitude, 90, "Degrees north of the equator.", setLatitude)}
        {angle("Longitude", longitude, 180, "Degrees east of Greenwich.", setLongitude)}
        {angle("North is at", north, 360, "Azimuth of north in the scene: 0 lies along −z.", setNorth)}
        <p className="figures text-xs quiet">
          {place
            ? `It stands ${place.elevation.toFixed(1)}° ${place.elevation < 0 ? "(below the horizon) " : ""}high, bearing ${place.bearing.toFixed(0)}°.`
            : "Give a date and a time."}
        </p>
        <button
          className="btn btn-xs btn-outline hair w-full"
          disabled={!place}
          onClick={() => {
            if (!place) return;
            const azimuth = ((place.bearing + north + 540) % 360) - 180;
            onChange({ azimuth: Number(azimuth.toFixed(2)), elevation: Number(place.elevation.toFixed(2)) });
          }}
        >
          Set the sun
        </button>
      </div>
    </details>
  );
}
