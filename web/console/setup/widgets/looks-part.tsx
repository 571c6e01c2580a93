import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import type { DesignPreview } from "../../../shared/types";
import { Button } from "../../kit/button";
import { Choice, Tick } from "../../kit/choice";
import { NumberField, TextInput } from "../../kit/field";
import { Wrong } from "../../kit/states";
import type { PartProps } from "./editor";

type Poor = DesignPreview["contrasts"][number];

/** Colour, launcher, links, and the variables of the panel's styles. */
export function LooksPart({ design, change, wrongAt, choices, poor }: PartProps & { poor: Poor[] }) {
  const { looks } = design;
  const set = (part: Partial<typeof looks>) => change({ looks: { ...looks, ...part } });
  const variables = looks.variables ?? {};
  const vary = (name: string, value: string) =>
    set({
      variables: Object.fromEntries(
        Object.entries({ ...variables, [name]: value }).filter(([, v]) => v !== ""),
      ),
    });
  const mend = (p: Poor) =>
    p.field === "colour" ? change({ colour: p.mend }) : vary(p.field.split(".").at(-1) ?? "", p.mend);
  const weak = (field: string) => {
    const p = poor.find((one) => one.field === field);
    return p ? (
      <p className="weak" role="status">
        <Trans>Hard to make out on the page: the contrast is {p.ratio.toFixed(2)} to 1.</Trans>{" "}
        <Button size="small" onClick={() => mend(p)}>
          <i className="swatch" style={{ background: p.mend }} /> {t`Use ${p.mend}`}
        </Button>
      </p>
    ) : null;
  };
  return (
    <>
      <h3>
        <Trans>Colour and launcher</Trans>
      </h3>
      <div className="fields">
        <div className="colour">
          <input
            type="color"
            aria-label={t`Pick the colour`}
            value={/^#[0-9a-f]{6}$/i.test(design.colour) ? design.colour : "#000000"}
            onChange={(e) => change({ colour: e.target.value })}
          />
          <TextInput
            label={t`Colour`}
            value={design.colour}
            change={(colour) => change({ colour })}
            wrong={wrongAt("colour")}
            hint={t`Words on it are black or white, whichever is easier to read`}
            most={7}
          />
        </div>
      </div>
      {weak("colour")}
      <div className="fields">
        <NumberField
          label={t`From the side`}
          unit="px"
          value={looks.distance}
          change={(distance) => set({ distance })}
          wrong={wrongAt("looks.distance")}
        />
      </div>
      <div className="fields">
        <Choice
          label={t`Side of the page`}
          value={design.corner}
          change={(corner) => change({ corner })}
          options={[
            { value: "left", words: t`left` },
            { value: "right", words: t`right` },
          ]}
        />
        <Choice
          label={t`Size of the launcher`}
          value={looks.size}
          change={(size) => set({ size })}
          options={[
            { value: "small", words: t`small` },
            { value: "usual", words: t`usual` },
            { value: "large", words: t`large` },
          ]}
        />
      </div>
      <Choice
        label={t`Icon in the launcher`}
        value={looks.icon}
        change={(icon) => set({ icon })}
        options={Object.entries(choices.icons)
          .sort(([a], [b]) => Number(b === "none") - Number(a === "none"))
          .map(([name, path]) => ({
            value: name as typeof looks.icon,
            words: path ? (
              <svg className="glyph" viewBox="0 0 16 16" role="img" aria-label={iconName(name)}>
                <path d={path} />
              </svg>
            ) : (
              t`none`
            ),
          }))}
      />
      <Tick checked={looks.faces} change={(faces) => set({ faces })}>
        <Trans>Show the operator’s photo or initials at the head of the chat</Trans>
      </Tick>
      <h3>
        <Trans>Links at the foot</Trans>
      </h3>
      {looks.links.map((link, i) => (
        <div className="row link" key={i}>
          <TextInput
            label={t`Words`}
            value={link.label}
            change={(label) => set({ links: looks.links.map((l, at) => (at === i ? { ...l, label } : l)) })}
            wrong={wrongAt(`looks.links.${i}.label`)}
            most={40}
          />
          <TextInput
            label={t`Address`}
            value={link.url}
            change={(url) => set({ links: looks.links.map((l, at) => (at === i ? { ...l, url } : l)) })}
            wrong={wrongAt(`looks.links.${i}.url`)}
            placeholder="https://"
            most={500}
          />
          <Button onClick={() => set({ links: looks.links.filter((_, at) => at !== i) })}>
            <Trans>Remove</Trans>
          </Button>
        </div>
      ))}
      {looks.links.length < 6 ? (
        <Button variant="outlined" onClick={() => set({ links: [...looks.links, { label: "", url: "" }] })}>
          <Trans>Add a link</Trans>
        </Button>
      ) : null}
      <h3>
        <Trans>Styles of the panel</Trans>
      </h3>
      <p className="about">
        <Trans>
          These are all that can be changed, so that nothing a visitor must see can be hidden and your looks
          outlast the next version. Empty is as usual.
        </Trans>
      </p>
      <Wrong words={wrongAt("looks.variables")} />
      <div className="fields">
        {choices.variables.map((v) => (
          <div key={v.name}>
            <TextInput
              label={variableName(v.name)}
              value={variables[v.name] ?? ""}
              change={(value) => vary(v.name, value)}
              placeholder={v.usual}
              most={200}
            />
            {weak(`looks.variables.${v.name}`)}
          </div>
        ))}
      </div>
    </>
  );
}

function iconName(name: string): string {
  switch (name) {
    case "speech":
      return t`speech bubble`;
    case "question":
      return t`question mark`;
    case "buoy":
      return t`life ring`;
  }
  return t`none`;
}

function variableName(name: string): string {
  switch (name) {
    case "ink":
      return t`Words`;
    case "page":
      return t`Behind the words`;
    case "paper":
      return t`Behind notes and the composer`;
    case "line":
      return t`Lines`;
    case "link":
      return t`Links and focus`;
    case "font":
      return t`Typeface`;
    case "size":
      return t`Size of the words`;
    case "radius":
      return t`Roundness`;
  }
  return name;
}
