import { calmStage } from "../ground/calm-stage.ts";
import { cleanStage } from "../ground/clean-stage.ts";
import { frameStage } from "../ground/frame-stage.ts";
import { lightStage } from "../light/light-stage.ts";
import { baseStage, localStage } from "../shape/local-contrast-stage.ts";
import { weighStage } from "../weigh/weigh-stage.ts";
import { areasStage } from "../weigh/areas-stage.ts";
import type { Stage } from "./stage.ts";

/** Every stage that works on tiles, each after its inputs. A new stage is one file and one line here. */
export const PIPELINE: readonly Stage[] = [
  weighStage,
  cleanStage,
  calmStage,
  frameStage,
  areasStage,
  baseStage,
  localStage,
  lightStage,
];
