import { TextInput } from "../kit/field";

interface Props {
  label: string;
  value: readonly string[];
  change: (value: string[]) => void;
  wrong: string | undefined;
  placeholder: string;
  hint?: string;
}

/** Patterns of pages like /freight*, with commas between them; a comma that was just typed stays. */
export function PagePatterns({ label, value, change, wrong, placeholder, hint }: Props) {
  return (
    <TextInput
      label={label}
      value={value.join(", ")}
      change={(text) =>
        change(
          text
            .split(",")
            .map((p, i, all) => (i === all.length - 1 ? p.trimStart() : p.trim()))
            .filter((p, i, all) => p !== "" || (i === all.length - 1 && all.length > 1)),
        )
      }
      wrong={wrong}
      placeholder={placeholder}
      hint={hint}
      most={2000}
    />
  );
}
