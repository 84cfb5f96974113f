/** A group of fields that folds. Folded, its head says what is inside; whether it is open is remembered. */
import type { ReactNode } from "react";
import { cssColour } from "../../shared/ColourField";
import { useBench, useDocument, useView } from "../model/context";
import type { Medium } from "#core/document/schema";
import { useLengths } from "../../shared/units";
import { DOCUMENT_WORDS, MEDIUM_WORDS, type GroupWords } from "../model/group-words";
import { GROUPS, isOpen, type GroupId } from "../model/groups";

export function Group({ id, about, children }: { id: GroupId; about?: GroupWords | undefined; children: ReactNode }) {
  const { view } = useBench();
  const open = useView((s) => isOpen(s.folds, id));
  return (
    <section id={`group-${id}`} className="pt-1.5">
      <h3>
        <button
          className="flex w-full items-center gap-2 py-0.5 text-left text-xs hover:bg-base-300/40"
          aria-expanded={open}
          aria-controls={`fields-${id}`}
          onClick={() => view.fold(id, open)}
        >
          <span className="shrink-0 font-semibold tracking-wide text-base-content/90">{GROUPS[id].title}</span>
          {about?.changed && (
            <span className="size-1.5 shrink-0 rounded-full bg-primary" title="Differs from what it is at first.">
              <span className="sr-only">changed</span>
            </span>
          )}
          <span className="figures min-w-0 grow truncate text-right quiet" title={about?.words}>
            {!open && about?.words}
          </span>
          {!open && about?.swatch && (
            <span aria-hidden className="inline-block h-3 w-5 shrink-0 border hair" style={{ background: cssColour(about.swatch) }} />
          )}
          <span aria-hidden className="w-3 shrink-0 text-center quiet">
            {open ? "−" : "+"}
          </span>
        </button>
      </h3>
      {open && (
        <div id={`fields-${id}`} className="space-y-1 pt-0.5">
          {children}
        </div>
      )}
    </section>
  );
}

/** A group about one medium. */
export function MediumGroup({ id, medium, children }: { id: keyof typeof MEDIUM_WORDS; medium: Medium; children: ReactNode }) {
  return (
    <Group id={id} about={MEDIUM_WORDS[id](medium, useLengths())}>
      {children}
    </Group>
  );
}

/** A group about the whole document. */
export function DocumentGroup({ id, children }: { id: keyof typeof DOCUMENT_WORDS; children: ReactNode }) {
  return (
    <Group id={id} about={DOCUMENT_WORDS[id](useDocument())}>
      {children}
    </Group>
  );
}
