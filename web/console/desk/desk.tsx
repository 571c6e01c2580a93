import "./desk.css";

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
import { useQueryClient } from "@tanstack/react-query";
import { Fragment, lazy, memo, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";

import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { holds } from "../keyboard/acts";
import { behindDialog, useAct } from "../keyboard/keyboard";
import { Lazily } from "../kit/lazily";
import { usePageTitle } from "../kit/page-title";
import { aboutQuery } from "./about-query";
import { EarlierChat } from "./beside";
import { Lane } from "./lane";
import { chooseLanes } from "./lanes";
import { Line } from "./line";
import { useDesk, useDeskStore } from "./provider";
import { Resizer } from "./resizer";

const About = lazy(() => import("./about").then((m) => ({ default: m.About })));

const narrowestLane = 330;
const lineUsual = 272;
const aboutUsual = 288;
/** Below this width what is known lies over the lanes instead of beside them. */
const roomForAbout = 1180;

/** The Desk: the line, lanes beside each other for as many chats as there is room, and About. */
export function DeskPage() {
  usePageTitle("Desk");
  const store = useDeskStore();
  const { focused, chats, loaded, preferences, alone, beside } = useDesk();
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(2 * narrowestLane);
  const [used, setUsed] = useState<string[]>([]);
  const [shownBefore, setShownBefore] = useState<string[]>([]);
  const wide = useWide(roomForAbout);
  const [over, setOver] = useState(false);
  const aboutOpen = wide ? (preferences.aboutOpen ?? true) : over;
  const lineWidth = preferences.lineWidth ?? lineUsual;
  const aboutWidth = preferences.aboutWidth ?? aboutUsual;

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => setWidth(element.clientWidth);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const room = Math.max(1, Math.min(4, Math.floor(width / narrowestLane)) - (beside ? 1 : 0));
  const order = focused && used[0] !== focused ? [focused, ...used.filter((id) => id !== focused)] : used;
  const all = store.lanes.showable().filter((id) => chats.has(id));
  const shown = alone && all.includes(alone) ? [alone] : chooseLanes(all, shownBefore, order, room);
  const shownKey = shown.join();
  // The same list as long as the same lanes are shown, for those who compare.
  const shownNow = useMemo(() => (shownKey ? shownKey.split(",") : []), [shownKey]);
  if (order !== used) setUsed(order);
  if (shownKey !== shownBefore.join()) setShownBefore(shown);
  useEffect(() => {
    const ids = shownKey ? shownKey.split(",") : [];
    store.lanes.setShown(ids);
    store.lookAgain();
    return () => store.lanes.setShown([]);
  }, [store, shownKey]);

  // What is known of a visitor is there before their lane is turned to.
  const queries = useQueryClient();
  useEffect(() => {
    if (!aboutOpen) return;
    for (const id of shownKey ? shownKey.split(",") : []) {
      const chat = store.snapshot().chats.get(id);
      if (chat) void queries.prefetchQuery(aboutQuery(chat));
    }
  }, [store, queries, aboutOpen, shownKey]);

  const go = (id: string | undefined) => {
    if (id) store.writeTo(id);
  };
  const stepTo = (step: number) => {
    const list = store.lanes.showable().filter((id) => chats.has(id));
    go(list[(list.indexOf(focused) + step + list.length) % Math.max(1, list.length)]);
  };
  const move = (step: number) => {
    const list = store.lanes.showable();
    const to = list[list.indexOf(focused) + step];
    if (to) store.lanes.move(focused, to);
  };
  const toggleAbout = () => (wide ? store.prefer({ aboutOpen: !aboutOpen }) : setOver(!over));
  useDeskActs();
  useAct("next-lane", () => stepTo(1), all.length > 1);
  useAct("previous-lane", () => stepTo(-1), all.length > 1);
  useAct("lane-right", () => move(1), all.length > 1);
  useAct("lane-left", () => move(-1), all.length > 1);
  useAct("about", toggleAbout, focused !== "");
  useLaneNumbers(go);
  useOpenedByAddress(go);

  const inUse = chats.get(focused);
  const columns = shown.map(
    (_, i) => preferences.laneShares?.[`${shown.length}.${i + 1}`] ?? 100 / shown.length,
  );
  const resize = (i: number, percent: number) => {
    const both = (columns[i] ?? 0) + (columns[i + 1] ?? 0);
    const least = Math.min(both / 2, (narrowestLane / width) * 100 * 0.8);
    const left = Math.min(both - least, Math.max(least, percent));
    const shares = { ...preferences.laneShares };
    columns.forEach((share, at) => (shares[`${shown.length}.${at + 1}`] = Math.round(share)));
    shares[`${shown.length}.${i + 1}`] = Math.round(left);
    shares[`${shown.length}.${i + 2}`] = Math.round(both - left);
    store.prefer({ laneShares: shares });
  };
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const hasMoved = useRef(false);
  const laneOf = (id: UniqueIdentifier) => `lane ${store.lanes.numberOf(String(id))}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => {
      hasMoved.current = false;
      return `Picked up ${laneOf(active.id)}.`;
    },
    onDragOver: ({ active, over: onto }) => {
      if (!onto) return undefined;
      // To begin with it lies over itself: what was said of the picking up stays.
      if (onto.id === active.id)
        return hasMoved.current ? `${laneOf(active.id)} is back at its place.` : undefined;
      hasMoved.current = true;
      return `${laneOf(active.id)} is at the place of ${laneOf(onto.id)}.`;
    },
    onDragEnd: ({ active, over: onto }) =>
      onto && onto.id !== active.id
        ? `Put ${laneOf(active.id)} at the place of ${laneOf(onto.id)}.`
        : `${laneOf(active.id)} stays where it was.`,
    onDragCancel: ({ active }) => `${laneOf(active.id)} stays where it was.`,
  };
  const dropped = ({ active, over: onto }: DragEndEvent) => {
    if (onto) store.lanes.move(String(active.id), String(onto.id));
  };

  return (
    <main
      className="desk"
      style={{
        gridTemplateColumns: `${lineWidth}px 0 minmax(0, 1fr)${aboutOpen && wide && inUse ? ` 0 ${aboutWidth}px` : ""}`,
      }}
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => e.preventDefault()}
    >
      <h1 className="sr-only">Desk</h1>
      <Line shown={shownNow} />
      <Resizer
        label="Width of the line"
        value={lineWidth}
        min={200}
        max={520}
        onChange={(value) => store.prefer({ lineWidth: value })}
      />
      <DndContext
        sensors={sensors}
        onDragEnd={dropped}
        accessibility={{
          announcements,
          screenReaderInstructions: {
            draggable:
              "Press the space bar to pick up the lane, the arrow keys to move it, the space bar to put it down, Esc to leave it where it was.",
          },
        }}
      >
        <SortableContext items={shownNow} strategy={horizontalListSortingStrategy}>
          <div
            className="lanes"
            ref={box}
            style={{
              gridTemplateColumns:
                shown.length > 0
                  ? columns.map((c) => `minmax(0, ${c}fr)`).join(" 0 ") +
                    (beside ? " minmax(260px, 40fr)" : "")
                  : "minmax(0, 1fr)",
            }}
          >
            {shown.map((id, i) => {
              const chat = chats.get(id);
              if (!chat) return null;
              return (
                <Fragment key={id}>
                  {i > 0 ? (
                    <Resizer
                      label={`Width of lane ${store.lanes.numberOf(shown[i - 1] ?? "")}`}
                      value={columns[i - 1] ?? 50}
                      min={10}
                      max={90}
                      scale={width / 100}
                      onChange={(value) => resize(i - 1, value)}
                    />
                  ) : null}
                  <SortableLane
                    chat={chat}
                    number={store.lanes.numberOf(id)}
                    focused={focused === id}
                    many={shown.length > 1}
                  />
                </Fragment>
              );
            })}
            {shown.length === 0 && loaded ? <EmptyLanes /> : null}
            {beside ? <EarlierChat beside={beside} /> : null}
          </div>
        </SortableContext>
      </DndContext>
      {aboutOpen && inUse ? (
        <>
          {wide ? (
            <Resizer
              label="Width of About"
              value={aboutWidth}
              min={220}
              max={560}
              reversed
              onChange={(value) => store.prefer({ aboutWidth: value })}
            />
          ) : null}
          <div className={wide ? "about-place" : "about-place over"}>
            <Lazily key={inUse.id}>
              <About chat={inUse} number={store.lanes.numberOf(inUse.id)} onClose={toggleAbout} />
            </Lazily>
          </div>
        </>
      ) : null}
    </main>
  );
}

/** A lane that can be moved by its handle, with the pointer or from the keyboard. */
const SortableLane = memo(function SortableLane(props: {
  chat: ChatView;
  number: number;
  focused: boolean;
  many: boolean;
}) {
  const { setNodeRef, transform, transition, attributes, listeners, isDragging } = useSortable({
    id: props.chat.id,
  });
  return (
    <Lane
      chat={props.chat}
      number={props.number}
      focused={props.focused}
      ref={setNodeRef}
      style={{
        transform: transform ? `translateX(${transform.x}px)` : undefined,
        transition,
        zIndex: isDragging ? 2 : undefined,
      }}
      handle={
        props.many ? (
          <button
            type="button"
            className="grip"
            {...attributes}
            {...listeners}
            aria-label={`Move lane ${props.number}`}
          >
            <Icons.Grip />
          </button>
        ) : null
      }
    />
  );
});

/** Acts on the line, from the keyboard. */
function useDeskActs(): void {
  const store = useDeskStore();
  const { chats } = useDesk();
  const next = store.waiting().find((c) => !c.offeredTo);
  const offer = store.offers()[0];
  const call = store.calls()[0];
  useAct("take-next", () => next && void store.take(next.id), chats.size > 0 && next !== undefined);
  useAct("take-offer", () => offer && void store.take(offer.id), offer !== undefined);
  useAct("pass-offer", () => offer && void store.pass(offer.id), offer !== undefined);
  useAct("help-team", () => call && void store.join(call.id).catch(() => undefined), call !== undefined);
}

/** Alt and a number goes to the lane of this number. */
function useLaneNumbers(go: (id: string) => void): void {
  const store = useDeskStore();
  const latest = useRef(go);
  useEffect(() => {
    latest.current = go;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const digit = holds(event) ? /^Digit([1-9])$/.exec(event.code)?.[1] : undefined;
      const lane = digit
        ? store.lanes.list().find((id) => store.lanes.numberOf(id) === Number(digit))
        : undefined;
      if (!lane) return;
      event.preventDefault();
      if (event.repeat || behindDialog()) return;
      latest.current(lane);
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [store]);
}

/** A link to the Desk may name a chat of mine. */
function useOpenedByAddress(go: (id: string) => void): void {
  const { loaded, chats } = useDesk();
  const [address, setAddress] = useSearchParams();
  const wanted = address.get("chat");
  const latest = useRef(go);
  useEffect(() => {
    latest.current = go;
  });
  useEffect(() => {
    if (!loaded || !wanted) return;
    if (chats.has(wanted)) latest.current(wanted);
    setAddress({}, { replace: true });
  }, [loaded, wanted, chats, setAddress]);
}

function useWide(pixels: number): boolean {
  const [wide, setWide] = useState(() => innerWidth >= pixels);
  useEffect(() => {
    const onResize = () => setWide(innerWidth >= pixels);
    addEventListener("resize", onResize);
    return () => removeEventListener("resize", onResize);
  }, [pixels]);
  return wide;
}

function EmptyLanes() {
  const { me } = useDesk();
  const store = useDeskStore();
  const waits = store.waiting().length > 0;
  const tucked = store.mine().length > 0;
  return (
    <div className="empty-lanes">
      <h2>Your chats open here, side by side</h2>
      <p>
        {tucked
          ? "You have chats on the left without a lane. Choose one to bring it back."
          : waits
            ? "Somebody is waiting on the left. Take the chat and it gets a lane with its own number."
            : me.available
              ? "Nobody is waiting. When a visitor writes, you hear a sound and they appear on the left."
              : "You are away, so nothing rings. Press Away at the top when you are ready to answer."}
      </p>
    </div>
  );
}
