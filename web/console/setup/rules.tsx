import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import {
  closestCenter,
  type CollisionDetection,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import type { DepartmentSettings, PersonSettings, Rule, RuleList } from "../../shared/types";
import { uuid } from "../../shared/uuid";
import { Icons } from "../icons";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { RuleEditor, ruleWords } from "./rule-editor";
import { useSaving, type Saving } from "../forms/saving";
import { Button } from "../kit/button";
import { LoadTrouble } from "../kit/states";
import { TryRules } from "./try-rules";

/** A rule goes where the pointer is, however tall an open one may be; with keys, to the nearest. */
const underPointer: CollisionDetection = (args) => {
  const under = pointerWithin(args);
  return under.length > 0 ? under : closestCenter(args);
};

/** Routing rules in their order; the first that matches decides. */
export function RulesPage() {
  const rules = useQuery({ queryKey: ["setup", "rules"], queryFn: () => ask(api.GET("/api/setup/rules")) });
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const people = useQuery({
    queryKey: ["setup", "people"],
    queryFn: () => ask(api.GET("/api/setup/people")),
  });
  const failed = [rules, departments, people].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!rules.data || !departments.data || !people.data)
    return <section className="loading" aria-busy="true" />;
  return (
    <RulesForm
      kept={rules.data}
      departments={departments.data}
      people={people.data.filter((p) => p.active)}
    />
  );
}

interface FormProps {
  kept: RuleList;
  departments: DepartmentSettings[];
  people: PersonSettings[];
}

function RulesForm({ kept, departments, people }: FormProps) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing("rules", kept);
  const { rules } = editing.value;
  const [open, setOpen] = useState("");
  const [matched, setMatched] = useState("");
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const change = (next: Rule[]) => {
    editing.change({ rules: next });
    setMatched("");
    saving.clear();
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = rules.findIndex((r) => r.id === active.id);
    const to = rules.findIndex((r) => r.id === over.id);
    change(arrayMove(rules, from, to));
  };
  const add = () => {
    const rule: Rule = {
      id: uuid(),
      name: "",
      on: true,
      match: "all",
      conditions: [{ field: "page.url", operator: "contains", value: "" }],
      department: departments[0]?.id ?? "",
    };
    change([...rules, rule]);
    setOpen(rule.id);
  };
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/rules", { body: editing.value })));
        await queries.invalidateQueries({ queryKey: ["setup", "rules"] });
      },
      t`Rules saved and in effect`,
    );
  return (
    <div className="rules">
      <section className="editor" aria-label={t`Rules`}>
        <header>
          <h2>
            <Trans>Rules</Trans>
          </h2>
          <p className="hint">
            <Trans>Checked from the top. The first match decides.</Trans>
          </p>
          <Button variant="outlined" startIcon={<Icons.Plus />} onClick={add}>
            <Trans>New rule</Trans>
          </Button>
        </header>
        <div className="body">
          {rules.length === 0 ? (
            <p className="nothing">
              <Trans>
                No rules yet: every chat goes to the default department. A rule sends chats elsewhere by page,
                form answer, customer or hour.
              </Trans>
            </p>
          ) : null}
          <DndContext sensors={sensors} collisionDetection={underPointer} onDragEnd={onDragEnd}>
            <SortableContext items={rules.map((r) => r.id)} strategy={verticalListSortingStrategy}>
              <ol className="rule-list">
                {rules.map((rule, i) => (
                  <RuleRow
                    key={rule.id}
                    rule={rule}
                    index={i}
                    open={open === rule.id}
                    matched={matched === rule.id}
                    toggle={() => setOpen(open === rule.id ? "" : rule.id)}
                    change={(next) => change(rules.map((r) => (r.id === next.id ? next : r)))}
                    remove={() => change(rules.filter((r) => r.id !== rule.id))}
                    departments={departments}
                    people={people}
                    saving={saving}
                  />
                ))}
              </ol>
            </SortableContext>
          </DndContext>
        </div>
        <SaveBar tryOut saving={saving} editing={editing} save={save} />
      </section>
      <TryRules rules={rules} onMatch={setMatched} />
    </div>
  );
}

interface RowProps {
  rule: Rule;
  index: number;
  open: boolean;
  matched: boolean;
  toggle: () => void;
  change: (rule: Rule) => void;
  remove: () => void;
  departments: DepartmentSettings[];
  people: PersonSettings[];
  saving: Saving;
}

function RuleRow({
  rule,
  index,
  open,
  matched,
  toggle,
  change,
  remove,
  departments,
  people,
  saving,
}: RowProps) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition } = useSortable({
    id: rule.id,
  });
  const wrong = ["name", "match", "department", "operator", "priority"]
    .map((part) => saving.wrongAt(`rules.${index}.${part}`))
    .concat(rule.conditions.map((_, j) => saving.wrongAt(`rules.${index}.conditions.${j}`)))
    .some(Boolean);
  return (
    <li
      ref={setNodeRef}
      className={`rule ${rule.on ? "" : "off"} ${matched ? "matched" : ""} ${wrong ? "has-wrong" : ""}`}
      style={{ transform: transform ? `translate3d(0, ${transform.y}px, 0)` : undefined, transition }}
    >
      <div className="rule-head">
        <button
          className="grip"
          ref={setActivatorNodeRef}
          {...attributes}
          {...listeners}
          aria-label={t`${index + 1}, move ${rule.name || t`this rule`}: press Space, then arrows`}
        >
          <Icons.Grip />
          <span className="place">{index + 1}</span>
        </button>
        <button className="summary" aria-expanded={open} onClick={toggle}>
          <b>{rule.name || t`Unnamed rule`}</b>
          <span>{ruleWords(rule, departments, people)}</span>
        </button>
        <label className="switch">
          <input
            type="checkbox"
            checked={rule.on}
            onChange={(e) => change({ ...rule, on: e.target.checked })}
          />
          {rule.on ? t`on` : t`off`}
        </label>
      </div>
      {open || wrong ? (
        <RuleEditor
          rule={rule}
          index={index}
          change={change}
          remove={remove}
          departments={departments}
          people={people}
          saving={saving}
        />
      ) : null}
    </li>
  );
}
