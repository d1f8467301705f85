import { DndContext, PointerSensor, useSensor, useSensors, type DragEndEvent } from "@dnd-kit/core";
import { restrictToParentElement, restrictToVerticalAxis } from "@dnd-kit/modifiers";
import { SortableContext, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { shapeWords } from "@yelm/core";
import { ArrowDown, ArrowUp, Copy, Eye, EyeOff, Link2, Trash2 } from "lucide-react";
import type { ReactNode } from "react";
import { useStore } from "zustand";
import { Group } from "../controls/group.tsx";
import { IconAct } from "../controls/icon-act.tsx";
import { useEdit, useSession } from "../data/use-session.ts";
import { benchView } from "../picture/bench-view.ts";
import { toolOf } from "./shape-tools.ts";
import type { Shaped, ShapeStack } from "./stack.ts";

interface ShapeListProps {
  readonly stack: ShapeStack;
  readonly label: string;
  /** What stands at the end of a row, before its switch. */
  readonly aside?: (id: string) => ReactNode;
  /** What more is told below a name. */
  readonly more?: (id: string) => string;
}

/** The shapes of a stack, first to last: choose, point at, switch. */
export function ShapeList({ stack, label, aside, more }: ShapeListProps) {
  const session = useSession();
  const items = stack.list(useEdit((state) => state.recipe));
  const activeId = stack.activeId(useStore(benchView));
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const [moved, at] = [items.find(({ id }) => id === active.id), items.findIndex(({ id }) => id === over?.id)];
    if (!moved || at < 0 || over?.id === active.id) return;
    session.change(stack.station, `Order of ${moved.name}`, (recipe) => stack.place(recipe, moved.id, at));
  };
  return (
    <DndContext sensors={sensors} modifiers={[restrictToVerticalAxis, restrictToParentElement]} onDragEnd={onDragEnd}>
      <SortableContext items={items.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
        <ol aria-label={label} className="-mx-2">
          {items.map((item, i) => (
            <Row key={item.id} {...{ stack, item, aside, more }} number={i + 1} active={item.id === activeId} />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

type RowProps = Omit<ShapeListProps, "label"> & {
  readonly item: Shaped;
  readonly number: number;
  readonly active: boolean;
};

function Row({ stack, item: { id, name, on, shape, isLinked }, number, active, aside, more }: RowProps) {
  const session = useSession();
  const { listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id });
  const flip = () =>
    session.change(stack.station, `${name} ${on ? "off" : "on"}`, (recipe) => stack.put(recipe, id, { on: !on }));
  const choose = () => {
    stack.activate(active ? null : id);
    benchView.setState({ tool: "look" });
  };
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`flex items-center gap-2 rounded px-2 py-1.5 ${active || isDragging ? "bg-fill" : ""} ${isDragging ? "relative z-10" : ""} ${on ? "" : "opacity-50"}`}
      {...listeners}
      onPointerEnter={() => benchView.setState({ pointedShape: id })}
      onPointerLeave={() => benchView.setState({ pointedShape: null })}
    >
      <span className={`w-4 text-center font-serif text-[15px] ${active ? "text-accent" : "text-quiet"}`}>
        {number}
      </span>
      <button className="min-w-0 flex-1 cursor-pointer text-left" aria-pressed={active} onClick={choose}>
        <span className="flex items-center gap-1">
          <span className="truncate">{name}</span>
          {isLinked && <Link2 size={12} aria-label="linked" className="text-quiet shrink-0" />}
        </span>
        <span className="text-quiet block truncate text-[11px]">{more?.(id) ?? shapeWords(shape)}</span>
      </button>
      {aside?.(id)}
      <IconAct
        label={on ? `Switch ${name} off` : `Switch ${name} on`}
        icon={on ? <Eye size={14} /> : <EyeOff size={14} />}
        onClick={flip}
      />
    </li>
  );
}

interface ShapeGroupProps {
  readonly stack: ShapeStack;
  readonly item: Shaped;
  readonly number: number;
  readonly onDuplicate?: () => void;
  readonly children: ReactNode;
}

/** The shape in hand: its name, its place among the others, and what it does. */
export function ShapeGroup({ stack, item: { id, name, shape }, number, onDuplicate, children }: ShapeGroupProps) {
  const session = useSession();
  const { station, noun } = stack;
  const shift = (by: -1 | 1) =>
    session.change(station, `Order of ${name}`, (recipe) =>
      stack.place(recipe, id, stack.list(recipe).findIndex((item) => item.id === id) + by),
    );
  const { Controls } = toolOf(shape.kind);
  return (
    <Group
      title={`${number} · ${name}`}
      aside={
        <span className="text-quiet flex">
          <IconAct label="Earlier" onClick={() => shift(-1)} icon={<ArrowUp size={14} />} />
          <IconAct label="Later" onClick={() => shift(1)} icon={<ArrowDown size={14} />} />
          {onDuplicate && <IconAct label="Duplicate" onClick={onDuplicate} icon={<Copy size={14} />} />}
          <IconAct
            label="Take away"
            onClick={() => removeShape(session, stack, id, name)}
            icon={<Trash2 size={14} />}
          />
        </span>
      }
    >
      <input
        className="field mb-1 w-full"
        aria-label={`Name of the ${noun}`}
        value={name}
        maxLength={stack.longestName}
        onChange={(event) => {
          const { value } = event.target;
          if (value) session.preview((recipe) => stack.put(recipe, id, { name: value }));
        }}
        onBlur={() => session.commit(station, `Name of ${name}`)}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      {children}
      {Controls && (
        <Controls
          shape={shape}
          preview={(next) => session.preview((recipe) => stack.change(recipe, id, () => next))}
          keep={(what) => session.commit(station, `${what} of ${name}`)}
        />
      )}
    </Group>
  );
}

/** Takes a shape away, and lets it go. */
export function removeShape(session: ReturnType<typeof useSession>, stack: ShapeStack, id: string, name: string): void {
  session.change(stack.station, `Took away ${name}`, (recipe) => stack.remove(recipe, id));
  stack.activate(null);
}
