import { t } from "@lingui/core/macro";
import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type Announcements,
  type DragEndEvent,
  type UniqueIdentifier,
} from "@dnd-kit/core";
import {
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from "@dnd-kit/sortable";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";

import { Icons } from "../icons";
import { laneElement } from "./lane-element";
import { useDeskStore, useWindows } from "./provider";

/**
 * Moves lanes by their handles, with the pointer or from the keyboard. It comes
 * after the lanes and puts a handle into each, so that none is drawn anew for it.
 */
export default function LaneMover({ shown }: { shown: string[] }) {
  const store = useDeskStore();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const hasMoved = useRef(false);
  const laneOf = (id: UniqueIdentifier) => t`lane ${store.screen.lanes.numberOf(String(id))}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => {
      hasMoved.current = false;
      return t`Picked up ${laneOf(active.id)}.`;
    },
    onDragOver: ({ active, over: onto }) => {
      if (!onto) return undefined;
      // To begin with it lies over itself: what was said of the picking up stays.
      if (onto.id === active.id)
        return hasMoved.current ? t`${laneOf(active.id)} is back at its place.` : undefined;
      hasMoved.current = true;
      return t`${laneOf(active.id)} is at the place of ${laneOf(onto.id)}.`;
    },
    onDragEnd: ({ active, over: onto }) =>
      onto && onto.id !== active.id
        ? t`Put ${laneOf(active.id)} at the place of ${laneOf(onto.id)}.`
        : t`${laneOf(active.id)} stays where it was.`,
    onDragCancel: ({ active }) => t`${laneOf(active.id)} stays where it was.`,
  };
  const dropped = ({ active, over: onto }: DragEndEvent) => {
    if (onto) store.screen.lanes.move(String(active.id), String(onto.id));
  };
  return (
    <DndContext
      sensors={sensors}
      onDragEnd={dropped}
      accessibility={{
        announcements,
        screenReaderInstructions: {
          draggable: t`Press the space bar to pick up the lane, the arrow keys to move it, the space bar to put it down, Esc to leave it where it was.`,
        },
      }}
    >
      <SortableContext items={shown} strategy={horizontalListSortingStrategy}>
        {shown.map((id) => (
          <Grip key={id} id={id} />
        ))}
      </SortableContext>
    </DndContext>
  );
}

/** The handle of a lane, drawn into its head. */
function Grip({ id }: { id: string }) {
  const store = useDeskStore();
  const number = useWindows((s) => s.lanes.numbers[id] ?? 0);
  const { setNodeRef, transform, transition, attributes, listeners, isDragging } = useSortable({
    id,
    attributes: { roleDescription: t`movable lane` },
  });
  const [lane, setLane] = useState<HTMLElement | null>(null);
  useLayoutEffect(() => {
    const element = document.getElementById(laneElement(id));
    setNodeRef(element);
    setLane(element); // eslint-disable-line react-hooks/set-state-in-effect
    return () => setNodeRef(null);
  }, [id, setNodeRef]);
  useEffect(() => {
    const lane = document.getElementById(laneElement(id));
    if (!lane) return;
    lane.style.transform = transform ? `translateX(${transform.x}px)` : "";
    lane.style.transition = transition ?? "";
    lane.style.zIndex = isDragging ? "2" : "";
  });
  const place = lane?.querySelector(".grip-place");
  if (!place) return null;
  // A portal's events do not pass the lane: what it does when it is used is done here.
  const use = () => store.screen.use(id);
  return createPortal(
    <button
      type="button"
      className="grip"
      {...attributes}
      {...listeners}
      onFocus={use}
      aria-label={t`Move lane ${number}`}
    >
      <Icons.Grip />
    </button>,
    place,
  );
}
