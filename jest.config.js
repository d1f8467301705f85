/** Unit and server tests run from the TypeScript sources ("source" export condition); kernels must be built. */
export default {
  testMatch: ["<rootDir>/packages/*/src/**/__tests__/**/*.test.ts"],
  testEnvironment: "node",
  testTimeout: 120_000,
  // One less than there are cores, which is what is usual, leaves half of a small machine idle.
  maxWorkers: 2,
  testEnvironmentOptions: { customExportConditions: ["source", "node", "node-addons"] },
  extensionsToTreatAsEsm: [".ts", ".tsx"],
  transform: {
    "^.+\\.tsx?$": [
      "<rootDir>/scripts/jest-transform.mjs",
      { jsc: { target: "es2022", parser: { syntax: "typescript" } }, module: { type: "es6" } },
    ],
  },
};
