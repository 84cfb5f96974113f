/** The set and the lens. */
import type { SceneDocument } from "#core/document/schema";
import { formatNumber } from "#core/document/quantities";
import { NumberField } from "../shared/NumberField";
import { useReach } from "./AirPart";
import { useBench, useDocument, useSession } from "./context";
import { Choice, Heading, Said, Switch } from "./Sheet";

export function SetPart() {
  const { store } = useBench();
  const doc = useDocument();
  const reach = useReach();
  const bounds = useSession((s) => s.bounds);
  const triangles = useSession((s) => s.triangles);
  const gesture = (a: boolean): void => store.gesture(a);
  const camera = (change: Partial<SceneDocument["camera"]>): void =>
    store.getState().set((d) => ({ ...d, camera: { ...d.camera, ...change } }));
  return (
    <>
      {doc.objects.map((o, i) => (
        <Switch
          key={i}
          label={o.name ?? o.kind}
          on={!o.hidden}
          teach="Hides the object from lens and light."
          onChange={(on) =>
            store.getState().set((d) => ({ ...d, objects: d.objects.map((x, k) => (k === i ? { ...x, hidden: !on } : x)) }))
          }
        />
      ))}
      {bounds && (
        <>
          <Said label="Triangles">
            <span className="figures">{triangles.toLocaleString("en")}</span>
          </Said>
          <Said label="Extent">
            <span className="figures">{[0, 1, 2].map((k) => formatNumber(bounds[k + 3]! - bounds[k]!, 3)).join(" × ")} m</span>
          </Said>
        </>
      )}
      <Heading>Lens</Heading>
      <Choice
        label="Projection"
        value={doc.camera.kind}
        options={[
          ["perspective", "perspective"],
          ["orthographic", "orthographic"],
        ]}
        teach="Distances through the air are measured along the real ray in both."
        onChange={(kind) => camera({ kind })}
      />
      {doc.camera.kind === "perspective" ? (
        <NumberField
          label="Field of view"
          unit="°"
          quantity="angle"
          value={doc.camera.fieldOfView}
          min={0.1}
          max={170}
          useful={[10, 100]}
          step={0.25}
          reset={45}
          onGesture={gesture}
          teach="Angle from the lower to the upper edge of the frame."
          onChange={(fieldOfView) => camera({ fieldOfView })}
        />
      ) : (
        <NumberField
          logarithmic
          label="Frame height"
          unit="m"
          quantity="length"
          value={doc.camera.height}
          min={1e-6}
          max={1e6}
          useful={[reach / 50, reach]}
          reset={10}
          onGesture={gesture}
          teach="Height of what the frame shows."
          onChange={(height) => camera({ height })}
        />
      )}
      {(["position", "target"] as const).map((what) =>
        doc.camera[what].map((v, k) => (
          <NumberField
            key={what + k}
            label={`${what === "position" ? "Lens" : "Looks at"} ${"xyz"[k]}`}
            unit="m"
            quantity="length"
            value={v}
            min={-1e5}
            max={1e5}
            useful={[-reach / 2, reach / 2]}
            step={reach / 1000}
            reset={0}
            onGesture={gesture}
            teach={what === "position" ? "Where the lens is." : "The point in the middle of the frame."}
            onChange={(x) => camera({ [what]: doc.camera[what].map((o, i) => (i === k ? x : o)) } as Partial<SceneDocument["camera"]>)}
          />
        )),
      )}
      <NumberField
        label="Roll"
        unit="°"
        quantity="angle"
        value={doc.camera.roll}
        min={-360}
        max={360}
        useful={[-45, 45]}
        step={0.25}
        reset={0}
        onGesture={gesture}
        teach="Turn of the frame about the line of sight."
        onChange={(roll) => camera({ roll })}
      />
    </>
  );
}
