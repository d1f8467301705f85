import { Command } from "cmdk";
import { useRef, useState, type ReactNode } from "react";
import { useNavigate } from "react-router";
import { useStore } from "zustand";
import { goToStation, hasBench } from "../bench/go.ts";
import { EVERY_ACT, EVERY_CONTROL, type CataloguedAct } from "../catalog.ts";
import { useFoundByName } from "../data/queries.ts";
import { actRegistry } from "../keys/acts.ts";
import { Keys } from "../keys/keys.tsx";
import { goToControl } from "./find-control.ts";
import { shellView } from "./shell-view.ts";

/** How long a station may take to offer its acts. */
const PATIENCE_MS = 2000;
const LOOK_MS = 50;

const SCREENS = [
  ["All rolls", "/"],
  ["Exports", "/exports"],
] as const;

/**
 * How well something is what was typed: every word of it must begin a word of the name or of what it is about, or stand inside
 * one; the name counts most.
 */
function fit(_value: string, search: string, words: readonly string[] = []): number {
  const wanted = search.trim().toLowerCase().split(/\s+/);
  const [name = "", ...about] = words.map((word) => word.toLowerCase());
  const score = (one: string) => {
    if (name.startsWith(one)) return 1;
    if (name.includes(` ${one}`)) return 0.9;
    if (about.some((word) => word.split(/\s+/).some((part) => part.startsWith(one)))) return 0.6;
    return name.includes(one) ? 0.5 : 0;
  };
  return Math.min(...wanted.map(score));
}

/** Finds everything by part of its name: acts and controls of every station, screens, rolls, prints. */
export function EveryAct() {
  const { paletteOpen } = useStore(shellView);
  const offered = useStore(actRegistry);
  const [text, setText] = useState("");
  const found = useFoundByName(paletteOpen ? text.trim() : "").data;
  const navigate = useNavigate();
  const list = useRef<HTMLDivElement>(null);
  const close = (then: () => void) => () => {
    shellView.setState({ paletteOpen: false });
    setText("");
    then();
  };
  const acts = EVERY_ACT.filter(
    (act) => !act.held && act.id !== "every-act" && (offered.has(act.id) || (act.station !== null && hasBench())),
  );
  return (
    <Command.Dialog
      open={paletteOpen}
      onOpenChange={(open) => {
        shellView.setState({ paletteOpen: open });
        if (!open) setText("");
      }}
      label="Every act"
      filter={fit}
      overlayClassName="fixed inset-0 z-40 bg-black/50"
      contentClassName="fixed top-[12%] left-1/2 z-50 w-[520px] -translate-x-1/2 rounded-md border border-line bg-base-100 text-base-content"
      loop
    >
      <Command.Input
        value={text}
        onValueChange={(typed) => {
          setText(typed);
          list.current?.scrollTo({ top: 0 });
        }}
        placeholder="An act, a control, a print: part of its name"
        className="border-line placeholder:text-quiet w-full border-b bg-transparent px-4 py-3 text-[15px] outline-none!"
      />
      <Command.List ref={list} className="slim-scroll max-h-[420px] overflow-y-auto p-2">
        <Command.Empty className="text-quiet px-2 py-4">Nothing is called that.</Command.Empty>
        {hasBench() && text !== "" && (
          <Section title="Controls">
            {EVERY_CONTROL.map((control) => (
              <Item
                key={`${control.station} ${control.name}`}
                value={`control ${control.station} ${control.name}`}
                words={[control.name, control.words, control.station]}
                onSelect={close(() => goToControl(control))}
                aside={control.station}
              >
                {control.name}
              </Item>
            ))}
          </Section>
        )}
        {[...new Set(acts.map(({ group }) => group))].map((group) => (
          <Section key={group} title={group}>
            {acts
              .filter((act) => act.group === group)
              .map((act) => (
                <Item
                  key={act.id}
                  value={`act ${act.id}`}
                  words={[act.label, group]}
                  onSelect={close(() => run(act))}
                  aside={<Keys of={act} />}
                >
                  {act.label}
                </Item>
              ))}
          </Section>
        ))}
        <Section title="Screens">
          {SCREENS.map(([name, path]) => (
            <Item
              key={path}
              value={`screen ${name}`}
              words={[name, "screen"]}
              onSelect={close(() => void navigate(path))}
            >
              {name}
            </Item>
          ))}
        </Section>
        {found && text.trim().length >= 2 && (
          <>
            <Section title="Rolls">
              {found.rolls.map(({ id, title }) => (
                <Item
                  key={id}
                  value={`roll ${id}`}
                  words={[title, text]}
                  onSelect={close(() => void navigate(`/rolls/${id}`))}
                >
                  {title}
                </Item>
              ))}
            </Section>
            <Section title="Prints">
              {found.prints.map(({ id, name, negative, roll }) => (
                <Item
                  key={id}
                  value={`print ${id}`}
                  words={[name, negative, text]}
                  onSelect={close(() => void navigate(`/prints/${id}`))}
                  aside={roll}
                >
                  {negative} · {name}
                </Item>
              ))}
            </Section>
          </>
        )}
      </Command.List>
    </Command.Dialog>
  );
}

/** Does an act; one of another station once that station is open. */
function run({ id, station }: CataloguedAct): void {
  const offered = () => actRegistry.getState().get(id);
  if (!offered() && station) goToStation(station);
  const until = Date.now() + PATIENCE_MS;
  const attempt = () => {
    const act = offered();
    if (act) act.run();
    else if (Date.now() < until) setTimeout(attempt, LOOK_MS);
  };
  attempt();
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Command.Group
      heading={title}
      className="[&_[cmdk-group-heading]]:text-quiet [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:font-serif"
    >
      {children}
    </Command.Group>
  );
}

interface ItemProps {
  readonly value: string;
  readonly words: readonly string[];
  readonly onSelect: () => void;
  readonly aside?: ReactNode;
  readonly children: ReactNode;
}

function Item({ value, words, onSelect, aside, children }: ItemProps) {
  return (
    <Command.Item
      value={value}
      keywords={[...words]}
      onSelect={onSelect}
      className="data-[selected=true]:bg-fill flex cursor-pointer items-center justify-between gap-3 rounded px-2 py-1.5"
    >
      <span className="truncate">{children}</span>
      {aside && <span className="text-quiet shrink-0 text-[12px]">{aside}</span>}
    </Command.Item>
  );
}
