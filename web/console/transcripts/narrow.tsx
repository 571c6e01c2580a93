import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { useMe } from "../desk/provider";
import { names, type Name } from "../filters/asked";
import { useChoices } from "../filters/choices";
import { Period } from "../filters/period";
import { asChoices, Pick } from "../filters/pick";
import { countryName, sourceKind } from "../guests/words";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Select } from "../kit/select";
import { missedWords } from "../reports/missed";
import { weekdayName } from "../reports/weekday";
import { endingWords, ratingWords } from "../words/codes";

interface Props {
  address: URLSearchParams;
  change: (part: Record<string, string>) => void;
}

// What has a field of its own always, and what has one when more is wanted.
const first = new Set<Name>(["from", "to", "department", "operator", "tag", "ending", "rating"]);
const more = new Set<Name>(["outcome", "widget", "country", "handedOn", "linesFrom", "sold"]);

/** By what the transcripts are narrowed. What came with a link from a report stands as a word that can be taken away. */
export function Narrow({ address, change }: Props) {
  const me = useMe();
  const choices = useChoices();
  const of = (name: Name) => address.get(name) ?? "";
  const [wide, setWide] = useState(() => [...more].some((name) => address.get(name)));
  const others = names.filter((name) => !first.has(name) && !(wide && more.has(name)) && address.get(name));
  const any = names.some((name) => address.get(name));
  return (
    <div className="narrow" role="search" aria-label={t`Which chats`}>
      <Period from={of("from")} to={of("to")} change={change} optional />
      <Pick
        label={t`Department`}
        all={t`All`}
        value={of("department")}
        choices={choices?.departments ?? []}
        change={(department) => change({ department })}
      />
      {me.role === "operator" ? null : (
        <Pick
          label={t`Operator`}
          all={t`Anybody`}
          value={of("operator")}
          choices={choices?.operators ?? []}
          change={(operator) => change({ operator })}
        />
      )}
      <Pick
        label={t`Tag`}
        all={t`Any`}
        value={of("tag")}
        choices={asChoices(choices?.tags ?? [])}
        change={(tag) => change({ tag })}
      />
      <Select
        label={t`Ended`}
        value={of("ending")}
        change={(ending) => change({ ending })}
        options={[
          { value: "", label: t`Any way` },
          ...(["answered", "missed", "message", "helped"] as const).map((e) => ({
            value: e,
            label: endingWords(e),
          })),
        ]}
      />
      <Select
        label={t`Rating`}
        value={of("rating")}
        change={(rating) => change({ rating })}
        options={[
          { value: "", label: t`Any` },
          ...[5, 4, 3, 2, 1].map((n) => ({ value: String(n), label: ratingWords(n) })),
        ]}
      />
      {wide ? (
        <>
          <Pick
            label={t`Outcome`}
            all={t`Any`}
            value={of("outcome")}
            choices={asChoices(choices?.outcomes ?? [])}
            change={(outcome) => change({ outcome })}
          />
          <Pick
            label={t`Widget`}
            all={t`All`}
            value={of("widget")}
            choices={choices?.widgets ?? []}
            change={(widget) => change({ widget })}
          />
          <Pick
            label={t`Country`}
            all={t`Any`}
            value={of("country")}
            choices={(choices?.countries ?? []).map((code) => ({ id: code, name: countryName(code) }))}
            change={(country) => change({ country })}
          />
          <Select
            label={t`Handed on`}
            value={of("handedOn")}
            change={(handedOn) => change({ handedOn })}
            options={[
              { value: "", label: t`Or not` },
              { value: "yes", label: t`Handed on` },
              { value: "no", label: t`Never` },
            ]}
          />
          <Select
            label={t`Sale`}
            value={of("sold")}
            change={(sold) => change({ sold })}
            options={[
              { value: "", label: t`Or not` },
              { value: "yes", label: t`With a sale` },
              { value: "no", label: t`Without` },
            ]}
          />
          <Select
            label={t`Length`}
            value={of("linesFrom")}
            change={(linesFrom) => change({ linesFrom })}
            options={[
              { value: "", label: t`Any` },
              ...[5, 10, 20, 50].map((n) => ({
                value: String(n),
                label: plural(n, { one: "from # message", other: "from # messages" }),
              })),
            ]}
          />
        </>
      ) : (
        <Button className="more-filters" onClick={() => setWide(true)}>
          <Trans>More filters</Trans>
        </Button>
      )}
      {others.map((name) => (
        <Button
          key={name}
          variant="outlined"
          className="chosen"
          endIcon={<Icons.Close />}
          aria-label={t`Take away: ${chosenWords(name, address)}`}
          onClick={() => change({ [name]: "" })}
        >
          {chosenWords(name, address)}
        </Button>
      ))}
      {any ? (
        <Button onClick={() => change(Object.fromEntries(names.map((name) => [name, ""])))}>
          <Trans>Clear filters</Trans>
        </Button>
      ) : null}
    </div>
  );
}

/** Says by what an address is narrowed that has no field of its own. */
function chosenWords(name: Name, address: URLSearchParams): string {
  const value = address.getAll(name).join(", ");
  const yes = value === "yes";
  switch (name) {
    case "zone":
      return t`Days in ${value}`;
    case "weekday":
      return weekdayName(Number(value), "long");
    case "hour":
      return t`from ${value}:00 to ${Number(value) + 1}:00`;
    case "missed":
      return t`Missed: ${missedWords(value)}`;
    case "rated":
      return yes ? t`Rated` : t`Not rated`;
    case "handedOn":
      return yes ? t`Handed on` : t`Never handed on`;
    case "sold":
      return yes ? t`With a sale` : t`Without a sale`;
    case "inTarget":
      return yes ? t`Taken within the target` : t`Not taken within the target`;
    case "invited":
      return value === "-" ? t`Not invited` : t`Invited`;
    case "waitFrom":
      return t`Waited at least ${value} s`;
    case "waitTo":
      return t`Waited less than ${value} s`;
    case "firstFrom":
      return t`First reply after at least ${value} s`;
    case "firstTo":
      return t`First reply within ${value} s`;
    case "linesFrom":
      return t`From ${value} messages`;
    case "linesTo":
      return t`Up to ${value} messages`;
    case "rule":
      return value === "-" ? t`Sent by no rule` : t`Sent by “${value}”`;
    case "page":
      return value === "-" ? t`Page not known` : t`Asked from ${value}`;
    case "source":
      return value === "-" ? t`Source not known` : t`Came by ${sourceKind(value)}`;
    case "country":
      return value === "-" ? t`Country not known` : countryName(value);
    case "outcome":
      return value === "-" ? t`No outcome` : t`Outcome: ${value}`;
    default:
      return value;
  }
}
