/** Everything that can be begun with: sets, then plates. */
import { DEMO_SETS, type DemoSet } from "./index";
import { DEMO_PLATES } from "./plates/index";

export const ALL_DEMOS: readonly DemoSet[] = [...DEMO_SETS, ...DEMO_PLATES];
