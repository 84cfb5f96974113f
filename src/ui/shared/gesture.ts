/** How a control says that a drag begins and ends, so that all changes between count as one step of undo. */
import { createContext } from "react";

export const GestureContext = createContext<(active: boolean) => void>(() => undefined);
