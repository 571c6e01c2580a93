import "./site-map.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { geoMercator, geoPath } from "d3-geo";
import { useEffect, useMemo, useRef, useState } from "react";
import { feature, mesh } from "topojson-client";
import type { GeometryCollection, Topology } from "topojson-specification";
import worldURL from "world-atlas/countries-50m.json?url";

import type { SpotView } from "../../shared/types";
import { Icons } from "../icons";
import { IconButton } from "../kit/button";
import { LoadTrouble } from "../kit/states";
import { useSeen } from "../guests/looking";
import { countryName } from "../guests/words";

const width = 280;
const height = 200;
const most = 64; // how far it can be drawn near

type World = Topology<{ countries: GeometryCollection; land: GeometryCollection }>;

interface View {
  /** The middle, in degrees. */
  longitude: number;
  latitude: number;
  scale: number;
}

function projectionOf({ longitude, latitude, scale }: View) {
  return geoMercator()
    .center([longitude, latitude])
    .scale(scale * 44)
    .translate([width / 2, height / 2])
    .clipExtent([
      [-20, -20],
      [width + 20, height + 20],
    ]);
}

interface Props {
  screen: string;
  place: string;
  pick: (place: string) => void;
}

/** Where the visitors are: a dot for each place, as large as many are there. */
export default function SiteMap({ screen, place, pick }: Props) {
  const spots = useSeen(screen, (s) => s.spots);
  const world = useQuery({
    queryKey: ["world"],
    queryFn: async () => {
      const answer = await fetch(worldURL);
      if (!answer.ok) throw new Error(`the map was answered with ${answer.status}`);
      return (await answer.json()) as World;
    },
    staleTime: Infinity,
    gcTime: Infinity,
  });
  const shapes = useMemo(() => {
    if (!world.data) return undefined;
    const { land, countries } = world.data.objects;
    return { land: feature(world.data, land), borders: mesh(world.data, countries, (a, b) => a !== b) };
  }, [world.data]);
  const [moved, setMoved] = useState<View | undefined>();
  const view = moved ?? around(spots);
  const { longitude, latitude, scale } = view;
  const projection = useMemo(
    () => projectionOf({ longitude, latitude, scale }),
    [longitude, latitude, scale],
  );
  // The coasts of the world take longer to draw than anything else here: only when one
  // looks elsewhere, not whenever somebody comes or goes.
  const drawn = useMemo(() => {
    const path = geoPath(projection);
    return shapes && { land: path(shapes.land) ?? "", borders: path(shapes.borders) ?? "" };
  }, [shapes, projection]);
  const zoom = (by: number) => setMoved({ ...view, scale: Math.min(Math.max(view.scale * by, 1), most) });
  const move = (x: number, y: number) => {
    const to = projection.invert?.([width / 2 + x, height / 2 + y]);
    if (to) setMoved({ ...view, longitude: to[0], latitude: Math.min(Math.max(to[1], -70), 78) });
  };
  const drawing = useRef<SVGSVGElement>(null);
  const zoomNow = useRef(zoom);
  useEffect(() => {
    zoomNow.current = zoom;
  });
  useEffect(() => {
    const svg = drawing.current;
    // React listens passively to the wheel: the page would scroll as well.
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      zoomNow.current(event.deltaY < 0 ? 1.25 : 0.8);
    };
    svg?.addEventListener("wheel", onWheel, { passive: false });
    return () => svg?.removeEventListener("wheel", onWheel);
  }, [shapes]);
  const largest = Math.max(1, ...spots.map((s) => s.count));
  if (world.isError) return <LoadTrouble error={world.error} again={() => void world.refetch()} />;
  return (
    <div className="world">
      {drawn ? (
        <svg
          ref={drawing}
          viewBox={`0 0 ${width} ${height}`}
          role="group"
          aria-label={t`Map; plus and minus zoom, arrow keys move`}
          tabIndex={0}
          onKeyDown={(event) => {
            const steps: Record<string, () => void> = {
              "+": () => zoom(1.5),
              "=": () => zoom(1.5),
              "-": () => zoom(1 / 1.5),
              "0": () => setMoved(undefined),
              ArrowLeft: () => move(-40, 0),
              ArrowRight: () => move(40, 0),
              ArrowUp: () => move(0, -40),
              ArrowDown: () => move(0, 40),
            };
            const step = steps[event.key];
            if (!step || event.ctrlKey || event.altKey || event.metaKey) return;
            event.preventDefault();
            step();
          }}
        >
          <path className="land" d={drawn.land} />
          <path className="borders" d={drawn.borders} />
          {[...spots].reverse().map((spot) => (
            <Spot
              key={spot.country + spot.name}
              spot={spot}
              at={projection([spot.longitude, spot.latitude])}
              radius={3 + 9 * Math.sqrt(spot.count / largest)}
              chosen={place === spot.name}
              dim={place !== "" && place !== spot.name}
              pick={() => pick(spot.name)}
            />
          ))}
          {named(spots, projection, largest).map(({ spot, x, y }) => (
            <text key={spot.country + spot.name} x={x} y={y} aria-hidden="true">
              {spot.name} {spot.count}
            </text>
          ))}
        </svg>
      ) : null}
      <div className="zoom">
        <IconButton size="small" aria-label={t`Zoom in`} onClick={() => zoom(1.5)}>
          <Icons.Plus />
        </IconButton>
        <IconButton size="small" aria-label={t`Zoom out`} onClick={() => zoom(1 / 1.5)}>
          <Icons.Minus />
        </IconButton>
        {moved ? (
          <IconButton size="small" aria-label={t`Show all places`} onClick={() => setMoved(undefined)}>
            <Icons.Alone />
          </IconButton>
        ) : null}
      </div>
      {spots.length === 0 ? (
        <p className="nothing">
          <Trans>Of nobody here it is known where they are.</Trans>
        </p>
      ) : null}
    </div>
  );
}

interface SpotProps {
  spot: SpotView;
  at: [number, number] | null;
  radius: number;
  chosen: boolean;
  dim: boolean;
  pick: () => void;
}

function Spot({ spot, at, radius, chosen, dim, pick }: SpotProps) {
  if (!at) return null;
  const count = plural(spot.count, { one: "# visitor", other: "# visitors" });
  return (
    <circle
      cx={at[0]}
      cy={at[1]}
      r={radius}
      className={[chosen ? "chosen" : "", dim ? "dim" : "", spot.waiting > 0 ? "waits" : ""].join(" ")}
      role="button"
      tabIndex={0}
      aria-pressed={chosen}
      aria-label={`${spot.name || countryName(spot.country)}: ${count}`}
      onClick={pick}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        event.stopPropagation();
        pick();
      }}
    >
      <title>{`${spot.name || countryName(spot.country)}: ${count}`}</title>
    </circle>
  );
}

/** The view that has most of the places in it: what is far from all others is left out. */
function around(spots: readonly SpotView[]): View {
  if (spots.length === 0) return { longitude: 10, latitude: 50, scale: 2 };
  const all = spots.reduce((n, s) => n + s.count, 0);
  const near: SpotView[] = [];
  let held = 0;
  for (const spot of spots) {
    // The largest come first; nine in ten are enough.
    if (near.length > 0 && held >= all * 0.85) break;
    near.push(spot);
    held += spot.count;
  }
  const y = (latitude: number) => Math.log(Math.tan(Math.PI / 4 + (latitude * Math.PI) / 360));
  const xs = near.map((s) => s.longitude);
  const ys = near.map((s) => y(s.latitude));
  const [west, east] = [Math.min(...xs), Math.max(...xs)];
  const [south, north] = [Math.min(...ys), Math.max(...ys)];
  const wide = Math.max(((east - west) * Math.PI) / 180, 0.06);
  const tall = Math.max(north - south, 0.04);
  const scale = Math.min((width - 70) / wide, (height - 60) / tall) / 44;
  const middle = (south + north) / 2;
  return {
    longitude: (west + east) / 2,
    latitude: (Math.atan(Math.sinh(middle)) * 180) / Math.PI,
    scale: Math.min(Math.max(scale, 1), 24),
  };
}

/** The largest places whose names stand beside each other without touching. */
function named(
  spots: readonly SpotView[],
  projection: (at: [number, number]) => [number, number] | null,
  largest: number,
) {
  const out: { spot: SpotView; x: number; y: number }[] = [];
  for (const spot of spots.slice(0, 12)) {
    const at = projection([spot.longitude, spot.latitude]);
    if (!at || !spot.name) continue;
    const radius = 3 + 9 * Math.sqrt(spot.count / largest);
    const wide = (spot.name.length + String(spot.count).length + 1) * 5.2;
    const x = at[0] + radius + 3 + wide > width ? at[0] - radius - 3 - wide : at[0] + radius + 3;
    const y = at[1] + 3;
    if (x < 2 || y < 8 || y > height - 4) continue;
    const free = out.every(
      (o) => Math.abs(o.y - y) > 11 || o.x + (o.spot.name.length + 4) * 5.2 < x || x + wide < o.x,
    );
    if (free) out.push({ spot, x, y });
  }
  return out;
}
