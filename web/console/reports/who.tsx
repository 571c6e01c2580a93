import { OperatorsTable } from "./operators";

/** What each operator did. */
export default function Who() {
  return <OperatorsTable />;
}
