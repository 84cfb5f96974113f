/** How charts look: the page's own colours and type, no movement, no legend. */
import { contextOf } from "./canvas";
import { Chart } from "chart.js";

/** The theme's colours that charts use. */
export type ThemeColour = "base-content" | "base-300" | "primary";

const found = new Map<string, string>();

/** A colour of the theme with an opacity, as charts can mix it: their colour reader knows no oklch. */
export function themeColour(name: ThemeColour, opacity = 1): string {
  const key = `${name} ${opacity}`;
  let colour = found.get(key);
  if (colour === undefined) {
    const canvas = document.createElement("canvas");
    canvas.width = canvas.height = 1;
    const context = contextOf(canvas);
    context.fillStyle = getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`);
    context.fillRect(0, 0, 1, 1);
    const [r, g, b] = context.getImageData(0, 0, 1, 1).data;
    colour = `rgba(${r}, ${g}, ${b}, ${opacity})`;
    found.set(key, colour);
  }
  return colour;
}

/** Sets what all charts share. */
export function applyChartTheme(): void {
  const { defaults } = Chart;
  defaults.animation = false;
  defaults.responsive = true;
  defaults.maintainAspectRatio = false;
  defaults.font.family = getComputedStyle(document.documentElement).fontFamily;
  defaults.font.size = 11;
  defaults.color = themeColour("base-content", 0.7);
  defaults.borderColor = themeColour("base-content", 0.15);
  const { tooltip } = defaults.plugins;
  tooltip.displayColors = false;
  tooltip.backgroundColor = themeColour("base-300");
  tooltip.bodyColor = themeColour("base-content");
  tooltip.titleColor = themeColour("base-content");
  tooltip.cornerRadius = 2;
  tooltip.padding = 5;
  tooltip.caretSize = 0;
}
