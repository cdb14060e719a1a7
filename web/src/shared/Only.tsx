import { ConfigProvider } from "antd";
import type { ReactNode } from "react";
import { useMay, type Act } from "../api/projects";

type Props = { project: number | undefined; act: Act; children: ReactNode };

/** Only lets what is in it be used by who may do something in a project; others look at it. */
export function Only({ project, act, children }: Props) {
  return <ConfigProvider componentDisabled={!useMay(project, act)}>{children}</ConfigProvider>;
}
