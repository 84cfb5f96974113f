/** A medium written as a volume file. */
import { useState } from "react";
import { saveFile } from "../../../shared/save-file";
import { useBench } from "../../model/context";
import { Num } from "../../../shared/Num";

/** The medium's density written as a file, as other programs read it. */
export function Bake({ name, index }: { name: string; index: number }) {
  const { session, store } = useBench();
  const [across, setAcross] = useState(96);
  const [state, setState] = useState<{ busy: boolean; said: string | null }>({ busy: false, said: null });
  const bake = async (): Promise<void> => {
    setState({ busy: true, said: null });
    try {
      const worker = await session.section.asked();
      const bytes = await worker.bake(store.getState().document, index, across);
      saveFile(bytes as Uint8Array<ArrayBuffer>, `${name.replace(/[^\p{L}\p{N}._-]+/gu, "-")}.vdb`, "application/octet-stream");
      setState({ busy: false, said: null });
    } catch (error) {
      setState({ busy: false, said: (error as Error).message });
    }
  };
  return (
    <>
      <div className="grid grid-cols-[1fr_6.8rem] items-center gap-x-2 [&>div]:grid-cols-[5rem_1fr]">
        <Num
          label="Resolution"
          quantity="count"
          whole
          value={across}
          min={8}
          max={256}
          step={8}
          reset={96}
          tooltip="Along the longest side of the region, for the file that is written."
          onChange={setAcross}
        />
        <button
          className="btn btn-xs btn-outline hair"
          disabled={state.busy}
          title="Writes this medium as OpenVDB, extinction in 1/m at every voxel: region, height falloff, noise and grid in one."
          onClick={() => void bake()}
        >
          {state.busy ? "Baking …" : "Bake OpenVDB"}
        </button>
      </div>
      {state.said && (
        <p role="alert" className="text-xs text-error">
          {state.said}
        </p>
      )}
    </>
  );
}
