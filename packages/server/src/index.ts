export * from "./errors.ts";
export * from "./files/file-name.ts";
export * from "./files/kernels.ts";
export * from "./files/linear-picture.ts";
export * from "./files/raw.ts";
export * from "./files/write-print.ts";
export * from "./serve.ts";
