import type { FieldView } from "../../shared/types";

/** Returns the fields that are asked for with some answers, as the server has it (core/form, Asked). */
export function asked(fields: readonly FieldView[], answer: (field: FieldView) => string): FieldView[] {
  const shown = new Map<string, string>();
  return fields.filter((field) => {
    const { showIf } = field;
    if (showIf) {
      const given = shown.get(showIf.field) ?? "";
      const is = (value: string) => value === given || `, ${given}, `.includes(`, ${value}, `);
      if (!given || (showIf.is?.length && !showIf.is.some(is))) return false;
    }
    shown.set(field.name, answer(field).trim());
    return true;
  });
}
