/** How bright light looks: shares of the primaries of Rec. 709 in luminance. @source ITU-R BT.709-6, 3.2 */
export const LUMINANCE_SHARES = [0.2126, 0.7152, 0.0722] as const;

/** Luminance of linear light, unbounded; of a surface without light on it, its reflectance. */
export const luminanceOf = (rgb: ArrayLike<number>): number => LUMINANCE_SHARES[0] * rgb[0] + LUMINANCE_SHARES[1] * rgb[1] + LUMINANCE_SHARES[2] * rgb[2];

/** What a mid grey card throws back of the light. Common practice, no published source. */
export const MID_GREY = 0.18;
export const MID_GREY_COLOR = [MID_GREY, MID_GREY, MID_GREY] as const;
