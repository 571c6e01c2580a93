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
      const chosen = value ? value.split(", ") : [];
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

const inputTypes: Record<string, string> = {
  email: "email",
  phone: "tel",
  number: "text",
  datetime: "datetime-local",
};
const autoComplete: Record<string, string> = { name: "name", email: "email", phone: "tel" };

const emailLike = /^[^\s@]+@[^\s@]+\.[^\s@.]+$/;

/** Says what is wrong with an answer, as far as a browser can tell; the server checks again. */
export function wrongWith(field: FieldView, value: string): string | undefined {
  const answer = value.trim();
  if (!answer)
    return field.required ? (field.kind === "consent" ? texts.start.agree : texts.start.fill) : undefined;
  if (field.kind === "email" && !emailLike.test(answer)) return field.error ?? texts.start.badEmail;
  if (field.kind === "phone" && answer.replace(/\D/g, "").length < 5)
    return field.error ?? texts.start.badPhone;
  return undefined;
}
