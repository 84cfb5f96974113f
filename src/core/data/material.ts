/** A metal–rough material after glTF 2.0: what a document, a model and the compiler agree on. */

/** Linear Rec. 709, 0 to 1 unless said otherwise. */
export type Colour = [number, number, number];

export interface Material {
  baseColor: Colour;
  metallic: number;
  roughness: number;
  /** Weight of the dielectric reflection. */
  specular: number;
  diffuseTransmission: number;
  /** Luminance per band, cd/m². */
  emission: Colour;
  opacity: number;
  /** Share of light that passes as through glass, tinted by the base colour. */
  transmission: number;
  /** Glass with an inside; else a thin pane that light passes straight. */
  solid: boolean;
  ior: number;
  /** Colour left of white light after the attenuation distance (m) inside a solid. */
  attenuationColor: Colour;
  attenuationDistance: number;
}
