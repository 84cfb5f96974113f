/** The system that lengths are shown in, for everything under a document. */
import { createContext, useContext } from "react";
import { lengthWords, type LengthWords, type UnitSystem } from "#core/document/units";

export const UnitsContext = createContext<UnitSystem>("metric");

/** Lengths in the words of the project. */
export const useLengths = (): LengthWords => lengthWords(useContext(UnitsContext));
