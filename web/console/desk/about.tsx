import type { Log } from "../../shared/log";
import type { ChatView } from "../../shared/types";
import { whyHere } from "./reasons";

/** What is known of a chat: why it is here, and what the visitor told before it. */
export function About({ chat, log }: { chat: ChatView; log: Log }) {
  const facts = [
    { name: "Department", value: chat.departmentName },
    {
      name: "Changed hands",
      value: chat.handOns === 0 ? "never" : chat.handOns === 1 ? "once" : `${chat.handOns} times`,
    },
    { name: "Priority", value: chat.priority === 0 ? "" : String(chat.priority) },
    { name: "Phone", value: chat.phone ?? "" },
    ...Object.entries(chat.answers ?? {}).map(([name, value]) => ({ name, value })),
  ].filter((f) => f.value);
  return (
    <div className="about">
      <p className="why">
        <b>Why here</b> {whyHere(log.events).join(" ")}
      </p>
      <dl>
        {facts.map((f) => (
          <div key={f.name}>
            <dt>{f.name}</dt>
            <dd>{f.value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
