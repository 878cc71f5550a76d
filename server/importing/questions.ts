/** What stands between a file that was read and its bars being taken. */
export function openQuestions(
  target: { leaveOut: boolean; takeChanges: boolean },
  report: { rejected: number; changed: number },
): ("broken" | "changed")[] {
  const open: ("broken" | "changed")[] = [];
  if (report.rejected > 0 && !target.leaveOut) open.push("broken");
  if (report.changed > 0 && !target.takeChanges) open.push("changed");
  return open;
}
