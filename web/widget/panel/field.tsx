import type { FieldView } from "../../shared/types";
import { texts } from "./texts";

interface Props {
  field: FieldView;
  value: string;
  wrong: string | undefined;
  change: (value: string) => void;
}

/** One question of the form before a chat. */
export function Field({ field, value, wrong, change }: Props) {
  const id = `wrong-${field.name}`;
  const invalid = { "aria-invalid": wrong !== undefined, "aria-describedby": id };
  const label = (
    <span>
      {field.label} {field.required ? null : <i>{texts.start.optional}</i>}
    </span>
  );
  const error = (
    <span className="wrong" id={id} role={wrong ? "alert" : undefined}>
      {wrong ?? ""}
    </span>
  );
  const choices = field.options ?? [];
  switch (field.kind) {
    case "consent":
      return (
        <label className="check">
          <input
            type="checkbox"
            name={field.name}
            checked={value === "yes"}
            {...invalid}
            onChange={(e) => change(e.currentTarget.checked ? "yes" : "")}
          />
          <span>{field.label}</span>
          {error}
        </label>
      );
    case "choice":
    case "choices": {
      // The longest option first: one may hold a comma, or begin like another.
      const chosen = chosenOf(
        value,
        choices.map((o) => o.value),
      );
      const many = field.kind === "choices";
      const toggle = (option: string, on: boolean) => {
        if (!many) change(option);
        else
          change(
            choices
              .map((o) => o.value)
              .filter((o) => (o === option ? on : chosen.includes(o)))
              .join(", "),
          );
      };
      return (
        <fieldset>
          <legend>{label}</legend>
          {choices.map((o) => (
            <label className="check" key={o.value}>
              <input
                type={many ? "checkbox" : "radio"}
                name={field.name}
                checked={chosen.includes(o.value)}
                {...invalid}
                onChange={(e) => toggle(o.value, e.currentTarget.checked)}
              />
              <span>{o.label}</span>
            </label>
          ))}
          {error}
        </fieldset>
      );
    }
    case "dropdown":
    case "department":
      return (
        <label>
          {label}
          <select
            name={field.name}
            value={value}
            {...invalid}
            onChange={(e) => change(e.currentTarget.value)}
          >
            <option value="">{texts.start.choose}</option>
            {choices.map((o) => (
              <option key={o.value} value={o.value}>
                {o.label}
              </option>
            ))}
          </select>
          {error}
        </label>
      );
    case "long":
      return (
        <label>
          {label}
          <textarea
            name={field.name}
            rows={3}
            value={value}
            {...invalid}
            onInput={(e) => change(e.currentTarget.value)}
          />
          {error}
        </label>
      );
    default:
      return (
        <label>
          {label}
          <input
            name={field.name}
            type={inputTypes[field.kind] ?? "text"}
            autoComplete={autoComplete[field.name] ?? "off"}
            maxLength={254}
            value={value}
            {...invalid}
            onInput={(e) => change(e.currentTarget.value)}
          />
          {error}
        </label>
      );
  }
}

/** Reads the options out of an answer that joins them by a comma and a space. */
export function chosenOf(answer: string, options: string[]): string[] {
  if (options.includes(answer)) return [answer];
  const longest = [...options].sort((a, b) => b.length - a.length);
  for (const option of longest) {
    if (!answer.startsWith(`${option}, `)) continue;
    const rest = chosenOf(answer.slice(option.length + 2), options);
    if (rest.length > 0) return [option, ...rest];
  }
  return [];
}

const inputTypes: Record<string, string> = {
  email: "email",
  phone: "tel",
  number: "text",
  datetime: "datetime-local",
};
const autoComplete: Record<string, string> = { name: "name", email: "email", phone: "tel" };

/** Says that an answer is missing. Whether it is a good one, the server says: it knows the rules. */
export function missing(field: FieldView, value: string): string | undefined {
  if (value.trim() || !field.required) return undefined;
  return field.kind === "consent" ? texts.start.agree : texts.start.fill;
}
