import { groundQuestions } from "./ground.ts";
import { judgeQuestions } from "./judge.ts";
import { lightQuestions } from "./light.ts";
import { lookQuestions } from "./looks.ts";
import { pictureQuestions } from "./picture.ts";
import { refitQuestions } from "./refit.ts";
import { regionQuestions } from "./regions.ts";
import { shapeQuestions } from "./shape.ts";
import { weighQuestions } from "./weigh.ts";

/** Everything that can be asked about a negative and a recipe. A new question is an entry in one of these. */
export const QUESTIONS = {
  ...pictureQuestions,
  ...groundQuestions,
  ...weighQuestions,
  ...shapeQuestions,
  ...lightQuestions,
  ...regionQuestions,
  ...refitQuestions,
  ...lookQuestions,
  ...judgeQuestions,
};
