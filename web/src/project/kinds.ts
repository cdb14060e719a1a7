/** What happens, as people say it. */
export const kindWords: Record<string, string> = {
  "round.made": "round created",
  "round.changed": "round changed",
  "round.removed": "round removed",
  "proof.put-up": "proof put up",
  "proof.withdrawn": "proof taken down",
  "proof.answered": "proof answered",
  "remark.made": "remark made",
  "remark.answered": "remark answered",
  "run.queued": "run queued",
  "run.started": "run started",
  "run.ended": "run ended",
};
