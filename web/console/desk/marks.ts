const marks = 6;

/**
 * Returns the class of a lane's own mark: a pattern and a colour by its number,
 * the same on the lane, its composer and its card, so that two visitors of one
 * name are told apart at a glance.
 */
export function markOf(number: number): string {
  return number > 0 ? `mark-${((number - 1) % marks) + 1}` : "";
}
