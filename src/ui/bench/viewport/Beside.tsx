/** A picture beside the one in front: the same part of its frame, at the same zoom. A click brings it to the front. */
import { useStore } from "zustand";
import type { PassName } from "#core/film/passes";
import { useBench, useView } from "../model/context";
import type { Shown } from "../model/view";
import type { Pair } from "../model/zoom";
import { FilmCanvas } from "./FilmCanvas";
import { seenBox } from "./places";

export function Beside(p: {
  what: Shown;
  cell: { left: number; top: number; size: Pair };
  /** Where the frame lies in its cell. */
  lies: { left: number; top: number; width: number; height: number };
  pass: PassName;
  width: number;
  onError(message: string): void;
}) {
  const { proofs, view } = useBench();
  const made = useStore(proofs.state, (s) => s.documents[p.what]);
  const { left, top, size } = p.cell;
  return (
    <div className="absolute overflow-hidden outline outline-base-content/15" style={{ left, top, width: size[0], height: size[1] }}>
      <button
        className="absolute cursor-pointer"
        style={p.lies}
        aria-label={`${useName(p.what)}: to the front`}
        data-beside={p.what}
        onClick={() => view.show(p.what)}
        onPointerMove={(e) => {
          const r = e.currentTarget.getBoundingClientRect();
          view.pointer.setState({ distance: null, at: { x: (e.clientX - r.left) / r.width, y: (e.clientY - r.top) / r.height } });
        }}
        onPointerLeave={() => view.pointer.setState({ distance: null, at: null })}
      >
        <FilmCanvas
          what={p.what}
          pass={p.pass}
          proof={made}
          width={p.width}
          label={`Picture beside: ${useName(p.what)}`}
          onError={p.onError}
        />
        <PointerMark />
      </button>
      <div className="pointer-events-none absolute" style={seenBox(p.lies, size)}>
        <Caption what={p.what} />
      </div>
    </div>
  );
}

/** The same place as under the pointer. */
function PointerMark() {
  const { view } = useBench();
  const at = useStore(view.pointer, (s) => s.at);
  if (!at) return null;
  return (
    <span
      aria-hidden
      className="pointer-events-none absolute size-3 -translate-1/2"
      style={{ left: `${100 * at.x}%`, top: `${100 * at.y}%` }}
    >
      <i className="absolute top-0 left-1/2 h-full w-px bg-primary" />
      <i className="absolute top-1/2 left-0 h-px w-full bg-primary" />
    </span>
  );
}

/** What a picture is called where several are shown. */
function useName(what: Shown): string {
  const { proofs } = useBench();
  const kept = useStore(proofs.state, (s) => s.proofs);
  if (what === "live") return "Live";
  const at = kept.findIndex((proof) => proof.id === what);
  return at < 0 ? "Proof" : `Proof ${at + 1}${kept[at]!.note ? `, ${kept[at]!.note}` : ""}`;
}

export function Caption({ what }: { what: Shown }) {
  const front = useView((s) => s.front === what);
  const back = useView((s) => s.back === what);
  return (
    <p className="absolute bottom-1.5 left-1.5 max-w-[90%] truncate bg-base-200/80 px-1.5 text-xs">
      {useName(what)} <span className="text-primary">{front ? "front" : back ? "back" : ""}</span>
    </p>
  );
}
