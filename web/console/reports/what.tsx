import { t } from "@lingui/core/macro";

import { countryName, sourceKind } from "../guests/words";
import { useChoices } from "../filters/choices";
import { Breakdown } from "./breakdown";
import { Counted } from "./counted";
import { Loaded } from "./loaded";
import { useReport } from "./use-report";

/** What chats were about and where they came from. */
export default function What() {
  const choices = useChoices();
  const tags = useReport("tag");
  const outcomes = useReport("outcome", false, true);
  const pages = useReport("page", false, true);
  const rules = useReport("rule", false, true);
  const departments = useReport("department", false, true);
  const sources = useReport("source", false, true);
  const countries = useReport("country", false, true);
  const none = t`none`;
  return (
    <Loaded report={tags}>
      {(report) => (
        <>
          <div className="two">
            <Breakdown
              title={t`Tags`}
              rows={report.rows}
              cut={report.cut}
              nameOf={(key) => (key === "-" ? t`no tag` : key)}
              filter="tag"
              columns={["answered", "first", "handling", "rating"]}
            />
            <Breakdown
              title={t`Outcomes`}
              rows={outcomes.data?.rows ?? []}
              nameOf={(key) => (key === "-" ? t`none put down` : key)}
              filter="outcome"
              columns={["handling", "rating", "sales"]}
            />
          </div>
          <div className="two">
            <Breakdown
              title={t`Pages they asked from`}
              rows={pages.data?.rows ?? []}
              cut={pages.data?.cut ?? false}
              nameOf={(key) => (key === "-" ? t`not known` : key)}
              filter="page"
              columns={["missed", "first", "sold", "rating"]}
            />
            <Breakdown
              title={t`Rules that sent them`}
              rows={rules.data?.rows ?? []}
              nameOf={(key) => (key === "-" ? t`no rule: the default` : key)}
              filter="rule"
              columns={["missed", "target", "handedOn"]}
            />
          </div>
          <div className="two">
            <Breakdown
              title={t`Departments`}
              rows={departments.data?.rows ?? []}
              nameOf={(key) => choices?.departments.find((d) => d.id === key)?.name ?? none}
              filter="department"
              columns={["answered", "target", "handedOn", "rating"]}
            />
            <Breakdown
              title={t`How visitors came to the site`}
              rows={sources.data?.rows ?? []}
              nameOf={(key) => (key === "-" ? t`not known` : sourceKind(key))}
              filter="source"
              columns={["answered", "sold", "rating"]}
            />
          </div>
          <Breakdown
            title={t`Countries`}
            rows={countries.data?.rows ?? []}
            cut={countries.data?.cut ?? false}
            nameOf={(key) => (key === "-" ? t`not known` : countryName(key))}
            filter="country"
            columns={["answered", "missed", "first", "sold", "rating"]}
          />
          <Counted
            codes={["chats", "answered", "first-reply", "handling", "hand-ons", "rating", "rules", "sales"]}
          />
        </>
      )}
    </Loaded>
  );
}
