import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useState, type ReactNode } from "react";

import { useDeskStore, usePreferences, useTeam } from "../desk/provider";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { Divider, Menu, MenuItem } from "../kit/menu";
import { InputAdornment, TextField } from "../kit/text-field";
import { useTypedWords } from "../kit/typed-words";
import { listIn } from "./filtering";
import { useSeen } from "../guests/looking";
import { countryName, siteStateWords, sourceKind } from "../guests/words";
import { allColumns, chosenColumns } from "./columns";

interface Props {
  look: string;
  address: URLSearchParams;
  change: (part: Record<string, string>) => void;
}

/** What the table is narrowed down to: each as a chip, with a search, views that were kept, and the columns. */
export const Filters = memo(function Filters({ look, address, change }: Props) {
  const departments = useTeam((s) => s.departments);
  // As a text, so that who comes and goes draws nothing here anew, unless a country does.
  const codes = useSeen(look, (s) => [...new Set(s.spots.map((spot) => spot.country))].sort().join(" "));
  const countries = codes
    .split(" ")
    .filter(Boolean)
    .sort((a, b) => countryName(a).localeCompare(countryName(b)));
  const list = (name: string, label: string, options: { value: string; label: string }[]) => (
    <Several
      label={label}
      chosen={listIn(address, name)}
      options={options}
      change={(values) => change({ [name]: values.join("|") })}
    />
  );
  const place = address.get("place");
  return (
    <div className="filters">
      <Search words={address.get("words") ?? ""} change={(words) => change({ words })} />
      {list(
        "state",
        t`State`,
        ["browsing", "idle", "invited", "waiting", "chat", "message"].map((value) => ({
          value,
          label: siteStateWords(value),
        })),
      )}
      {list(
        "country",
        t`Country`,
        [...new Set([...countries, ...listIn(address, "country")])].map((value) => ({
          value,
          label: countryName(value),
        })),
      )}
      {list(
        "department",
        t`Department`,
        departments.map((d) => ({ value: d.name, label: d.name })),
      )}
      {list(
        "source",
        t`Came from`,
        ["direct", "search", "social", "email", "campaign", "referral"].map((value) => ({
          value,
          label: sourceKind(value),
        })),
      )}
      <One
        label={t`Basket`}
        value={address.get("basket") ?? ""}
        options={[
          { value: "", label: t`any` },
          { value: "with", label: t`with something in it` },
          { value: "without", label: t`empty` },
        ]}
        change={(basket) => change({ basket })}
      />
      <One
        label={t`Visits`}
        value={address.get("visits") ?? ""}
        options={[
          { value: "", label: t`first or later` },
          { value: "first", label: t`first` },
          { value: "later", label: t`came back` },
        ]}
        change={(visits) => change({ visits })}
      />
      {place ? (
        <span className="chip on">
          <span>
            <Trans>
              Place <b>{place}</b>
            </Trans>
          </span>
          <IconButton size="small" aria-label={t`Any place`} onClick={() => change({ place: "" })}>
            <Icons.Close />
          </IconButton>
        </span>
      ) : null}
      {listIn(address, "topic").map((topic) => (
        <span key={topic} className="chip on">
          <span>
            <Trans>
              Topic <b>{topic}</b>
            </Trans>
          </span>
          <IconButton size="small" aria-label={t`Any topic`} onClick={() => change({ topic: "" })}>
            <Icons.Close />
          </IconButton>
        </span>
      ))}
      <span className="ways">
        <Views address={address} change={change} />
        <Columns />
      </span>
    </div>
  );
});

function Search({ words, change }: { words: string; change: (words: string) => void }) {
  const [typed, setTyped] = useTypedWords(words, change, 200);
  return (
    <TextField
      size="small"
      type="search"
      value={typed}
      placeholder={t`Search`}
      onChange={(event) => setTyped(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === "Escape") setTyped("");
      }}
      slotProps={{
        htmlInput: { "aria-label": t`Search the visitors`, maxLength: 200 },
        input: {
          startAdornment: (
            <InputAdornment position="start">
              <Icons.Search />
            </InputAdornment>
          ),
        },
      }}
    />
  );
}

/** A control that opens a menu under it. */
function Opening({
  label,
  face,
  on,
  children,
}: {
  label: string;
  face: ReactNode;
  on: boolean;
  children: (close: () => void) => ReactNode;
}) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        variant="outlined"
        className={on ? "chip on" : "chip"}
        aria-haspopup="menu"
        aria-label={label}
        onClick={(e) => setAt(e.currentTarget)}
        endIcon={<Icons.Down />}
      >
        {face}
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        {children(() => setAt(null))}
      </Menu>
    </>
  );
}

interface SeveralProps {
  label: string;
  chosen: string[];
  options: { value: string; label: string }[];
  change: (values: string[]) => void;
}

function Several({ label, chosen, options, change }: SeveralProps) {
  const words =
    chosen.length === 0
      ? t`all`
      : chosen.map((c) => options.find((o) => o.value === c)?.label ?? c).join(", ");
  return (
    <Opening
      label={`${label}: ${words}`}
      on={chosen.length > 0}
      face={
        <span className="cut">
          {label} <b>{words}</b>
        </span>
      }
    >
      {(close) => [
        ...(options.length === 0
          ? [
              <MenuItem key="" disabled>
                <Trans>Nothing to choose from yet</Trans>
              </MenuItem>,
            ]
          : options.map((o) => {
              const on = chosen.includes(o.value);
              return (
                <MenuItem
                  key={o.value}
                  role="menuitemcheckbox"
                  aria-checked={on}
                  onClick={() => change(on ? chosen.filter((c) => c !== o.value) : [...chosen, o.value])}
                >
                  <span className="tick">{on ? <Icons.Check /> : null}</span> {o.label}
                </MenuItem>
              );
            })),
        ...(chosen.length > 0
          ? [
              <Divider key="line" />,
              <MenuItem
                key="all"
                onClick={() => {
                  change([]);
                  close();
                }}
              >
                <Trans>Show all</Trans>
              </MenuItem>,
            ]
          : []),
      ]}
    </Opening>
  );
}

interface OneProps {
  label: string;
  value: string;
  options: { value: string; label: string }[];
  change: (value: string) => void;
}

function One({ label, value, options, change }: OneProps) {
  const words = options.find((o) => o.value === value)?.label ?? value;
  return (
    <Opening
      label={`${label}: ${words}`}
      on={value !== ""}
      face={
        <span>
          {label} <b>{words}</b>
        </span>
      }
    >
      {(close) =>
        options.map((o) => (
          <MenuItem
            key={o.value}
            role="menuitemradio"
            aria-checked={o.value === value}
            onClick={() => {
              change(o.value);
              close();
            }}
          >
            <span className="tick">{o.value === value ? <Icons.Check /> : null}</span> {o.label}
          </MenuItem>
        ))
      }
    </Opening>
  );
}

/** Ways to look that were kept under a name. */
function Views({ address, change }: { address: URLSearchParams; change: Props["change"] }) {
  const { preferring } = useDeskStore();
  const views = usePreferences((s) => s.preferences.siteViews) ?? [];
  const [naming, setNaming] = useState("");
  const now = new URLSearchParams(address);
  now.delete("visitor");
  const show = (search: string) => {
    const wanted = new URLSearchParams(search);
    const names = new Set([...now.keys(), ...wanted.keys()]);
    change(Object.fromEntries([...names].map((name) => [name, wanted.get(name) ?? ""])));
  };
  return (
    <Opening label={t`Views`} on={false} face={t`Views`}>
      {(close) => [
        ...views.map((v) => (
          <MenuItem
            key={v.name}
            onClick={() => {
              show(v.address);
              close();
            }}
          >
            <span className="tick">{v.address === now.toString() ? <Icons.Check /> : null}</span>
            <span className="grow">{v.name}</span>
            <IconButton
              size="small"
              aria-label={t`Forget the view ${v.name}`}
              onClick={(e) => {
                e.stopPropagation();
                preferring.prefer({ siteViews: views.filter((o) => o.name !== v.name) });
              }}
            >
              <Icons.Bin />
            </IconButton>
          </MenuItem>
        )),
        ...(views.length > 0 ? [<Divider key="line" />] : []),
        <li key="keep" className="keep-view">
          <form
            onSubmit={(e) => {
              e.preventDefault();
              const name = naming.trim();
              if (!name) return;
              const view = { name, address: now.toString() };
              preferring.prefer({ siteViews: [...views.filter((v) => v.name !== name), view] });
              setNaming("");
              close();
            }}
          >
            <TextField
              size="small"
              value={naming}
              placeholder={t`Name for this view`}
              onChange={(e) => setNaming(e.target.value)}
              onKeyDown={(e) => e.stopPropagation()}
              slotProps={{ htmlInput: { "aria-label": t`Name for this view`, maxLength: 60 } }}
            />
            <Button type="submit" variant="outlined" disabled={!naming.trim()}>
              <Trans>Keep</Trans>
            </Button>
          </form>
        </li>,
      ]}
    </Opening>
  );
}

/** Which columns are shown. */
function Columns() {
  const { preferring } = useDeskStore();
  const kept = usePreferences((s) => s.preferences.siteColumns);
  const shown = chosenColumns(kept).map((c) => c.id);
  return (
    <Opening label={t`Columns`} on={false} face={t`Columns`}>
      {() =>
        allColumns
          .filter((c) => !c.always)
          .map((c) => {
            const on = shown.includes(c.id);
            return (
              <MenuItem
                key={c.id}
                role="menuitemcheckbox"
                aria-checked={on}
                onClick={() =>
                  preferring.prefer({
                    siteColumns: allColumns
                      .map((one) => one.id)
                      .filter((id) => (id === c.id ? !on : shown.includes(id))),
                  })
                }
              >
                <span className="tick">{on ? <Icons.Check /> : null}</span> {c.head}
              </MenuItem>
            );
          })
      }
    </Opening>
  );
}
