import { expect, test } from "@jest/globals";
import { Turns } from "../turns.ts";

/** Work that notes its name, with things that happen while it is at it. */
function noting() {
  const done: string[] = [];
  let received: (() => void)[] = [];
  const turns = new Turns(() => {
    const now = received;
    received = [];
    for (const receive of now) receive();
    return Promise.resolve();
  });
  const work = (name: string) => () => {
    done.push(name);
    return Promise.resolve();
  };
  /** A question of several parts, before each of which pictures may pass; `sent` is what the page sends during the first. */
  const question = (name: string, parts: number, sent: () => void) => async () => {
    for (let part = 1; part <= parts; part++) {
      while (await turns.giveWay());
      done.push(`${name} ${part}`);
      if (part === 1) received.push(sent);
    }
  };
  return { done, turns, work, question };
}

const rest = async () => {
  for (let i = 0; i < 50; i++) await Promise.resolve();
};

test("a picture that is wanted while something is measured comes before the next part of it, in order, and before other questions", async () => {
  const { done, turns, work, question } = noting();
  turns.add(
    false,
    question("price", 3, () => {
      turns.add(false, work("colours"));
      turns.add(true, work("first picture"));
      turns.add(true, work("second picture"));
    }),
  );
  await rest();
  expect(done).toEqual(["price 1", "first picture", "second picture", "price 2", "price 3", "colours"]);
});

test("what waits begins with pictures; afterwards the next piece of work finds nobody at work", async () => {
  const { done, turns, work } = noting();
  turns.add(true, work("open"));
  turns.add(false, work("measure"));
  turns.add(true, work("picture"));
  await rest();
  turns.add(false, work("ends"));
  await rest();
  expect(done).toEqual(["open", "picture", "measure", "ends"]);
});
