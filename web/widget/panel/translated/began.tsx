import { t } from "@lingui/core/macro";

/** Says that from here on a machine stands between the two languages. */
export default function Began() {
  return (
    <p className="event">
      {t({
        id: "translated.began",
        message: `From here on, what you and our team write is translated automatically.`,
      })}
    </p>
  );
}
