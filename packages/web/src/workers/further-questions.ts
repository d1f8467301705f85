/** The core's questions, apart from what a first picture needs: a chunk of its own for the render worker. */
export { QUESTIONS } from "@yelm/core";
