/** Files of a plate from a dialog: a button, or whatever opens it. */
import { useRef } from "react";
import { PLATE_FILES } from "./plate-files";

/** @param children is given what opens the dialog */
export function PlatePicker(p: { onFiles(files: File[]): void; children(open: () => void): React.ReactNode }) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      {p.children(() => picker.current?.click())}
      <input
        ref={picker}
        type="file"
        multiple
        accept={PLATE_FILES}
        aria-label="Files of a plate"
        className="hidden"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          if (files.length > 0) p.onFiles(files);
          e.target.value = "";
        }}
      />
    </>
  );
}
