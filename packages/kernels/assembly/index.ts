// Loops over spans of numbers, 128 bits wide. Every pointer is a byte address, every count a number of samples.
// Registers are padded, so loops may run up to three samples past `n` where the comment does not say otherwise.
export * from "./memory";
export * from "./load";
export * from "./transfer";
export * from "./alpha";
export * from "./blend";
export { correct_grain } from "./grain";
export { correct_oklab_matrix, correct_repaint, correct_vignette } from "./correct";
export { correct_curves, correct_hue_families, correct_ramp, correct_tone_shift, correct_vibrance } from "./tables";
export { correct_highlight_limit, correct_matrix, correct_power, tone_table } from "./tone";
export * from "./lut";
export { local_fit, local_join, local_moments, sum_planes } from "./local";
export * from "./smooth";
export * from "./join";
export * from "./pack";
export * from "./reduce";
export * from "./raster";
export * from "./fill";
export * from "./focus";
export * from "./air";
export * from "./sky";
export * from "./warp";
export * from "./exr";
export * from "./inflate";
export * from "./piz";
export * from "./b44";
export * from "./dwa";
export * from "./rays";
