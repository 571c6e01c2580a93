import Button from "@mui/material/Button";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { Choice, LoadTrouble, TextInput, Wrong } from "../forms/parts";
import { useSaving } from "../forms/saving";

/** Who is shut out: visitors banned from their chat, and networks. */
export function BansPage() {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const bans = useQuery({ queryKey: ["bans"], queryFn: () => ask(api.GET("/api/bans")) });
  const [network, setNetwork] = useState("");
  const [reason, setReason] = useState("");
  const [hours, setHours] = useState("24");
  if (bans.isError) return <LoadTrouble error={bans.error} again={() => void bans.refetch()} />;
  if (!bans.data) return <section className="loading" aria-busy="true" />;
  const again = () => queries.invalidateQueries({ queryKey: ["bans"] });
  const add = () =>
    void saving.run(async () => {
      await ask(api.POST("/api/bans", { body: { network: network.trim(), reason, hours: Number(hours) } }));
      setNetwork("");
      setReason("");
      await again();
    }, `${network} banned`);
  const lift = (id: string, name: string) =>
    void saving.run(async () => {
      await ask(api.DELETE("/api/bans/{id}", { params: { path: { id } } }));
      await again();
    }, `Ban on ${name} lifted`);
  return (
    <section className="editor" aria-label="Bans">
      <header>
        <h2>Bans</h2>
      </header>
      <div className="body">
        <p>
          Visitors are banned from their chat, under More. Here a whole network can be shut out, and bans are
          lifted.
        </p>
        <form
          className="fields ban"
          onSubmit={(e) => {
            e.preventDefault();
            add();
          }}
        >
          <TextInput
            label="Address or range"
            value={network}
            placeholder="192.0.2.0/24"
            change={setNetwork}
            wrong={wrongAt("network")}
            hint="Everyone from there, including open chats"
            most={50}
          />
          <TextInput
            label="Reason"
            value={reason}
            change={setReason}
            wrong={wrongAt("reason")}
            hint="For colleagues; visitors do not see it"
            most={300}
          />
          <Choice
            label="For how long"
            value={hours}
            change={setHours}
            options={[
              { value: "1", label: "an hour" },
              { value: "24", label: "a day" },
              { value: "168", label: "a week" },
              { value: "720", label: "30 days" },
              { value: "0", label: "until it is lifted" },
            ]}
          />
          <Button type="submit" variant="outlined" disabled={saving.busy || !network.trim()}>
            Ban
          </Button>
        </form>
        <Wrong words={saving.trouble} />
        {bans.data.length === 0 ? <p className="nothing">No bans.</p> : null}
        {bans.data.length > 0 ? (
          <table className="bans">
            <thead>
              <tr>
                <th scope="col">Who</th>
                <th scope="col">Why</th>
                <th scope="col">By</th>
                <th scope="col">Until</th>
                <th scope="col">
                  <span className="sr-only">Lift</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {bans.data.map((b) => {
                const who = b.network || b.name || "Unnamed visitor";
                return (
                  <tr key={b.id} className={b.holds ? "" : "over"}>
                    <th scope="row">
                      <bdi>{who}</bdi>
                    </th>
                    <td>{b.reason}</td>
                    <td>
                      {b.by}, {dayAndTime(b.createdAt)}
                    </td>
                    <td>
                      {b.liftedAt
                        ? `lifted ${dayAndTime(b.liftedAt)}`
                        : b.until
                          ? `${b.holds ? "" : "ended "}${dayAndTime(b.until)}`
                          : "somebody lifts it"}
                    </td>
                    <td>
                      {b.holds ? (
                        <Button variant="outlined" onClick={() => lift(b.id, who)}>
                          Lift
                        </Button>
                      ) : null}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        ) : null}
      </div>
    </section>
  );
}
