export * from "./camera.ts";
export * from "./charts.ts";
export * from "./dng.ts";
export * from "./expose.ts";
export * from "./lossless-jpeg.ts";
export * from "./random.ts";
export * from "./scene.ts";
export * from "./shoot.ts";
