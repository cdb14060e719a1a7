import { pictureURL, type Look, type RunBody } from "../api/client";

/** How a run's ticket says its picture is looked at. */
export const lookOf = (r: RunBody): Look => ({
  ev: r.run.resolved.ticket.view.exposure,
  display: r.run.resolved.ticket.view.display as Look["display"],
});

/** Thumb is a run's beauty, small. It is drawn anew when the run's state changes. */
export function Thumb({ run, pass = "beauty" }: { run: RunBody; pass?: string }) {
  if (run.run.samples <= 0 && run.run.state !== "done") return <span className="thumb" />;
  const version = `${run.run.state}-${run.run.samples.toFixed(0)}`;
  return (
    <img
      className="thumb"
      alt=""
      loading="lazy"
      fetchPriority="low"
      src={pictureURL(run.run.id, pass, lookOf(run), 184, version)}
    />
  );
}
