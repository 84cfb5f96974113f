/** The table of lights: their settings, or the balance of their groups. */
import { useView } from "../model/context";
import { BalanceTable } from "./BalanceTable";
import { LightTable } from "./LightTable";

export function LightsDrawing() {
  return useView((s) => s.lightTable) === "balance" ? <BalanceTable /> : <LightTable />;
}
