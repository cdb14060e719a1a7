import { DownOutlined } from "@ant-design/icons";
import { App, Button, Dropdown } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useChange } from "../api/http";
import { chooseProject, makeProject, useMe, useProject, useProjects } from "../api/projects";
import { NameDialog } from "../shared/NameDialog";

/** ProjectSwitch says whose lists are shown, and shows those of another project. */
export function ProjectSwitch() {
  const here = useProject();
  const all = useProjects().data ?? [];
  const me = useMe().data;
  const go = useNavigate();
  const { message } = App.useApp();
  const [naming, setNaming] = useState(false);
  const make = useChange(makeProject, [["projects"], ["me"]]);
  const choose = (id: number) => {
    chooseProject(id);
    void go("/board"); // not by way of the start page, which would lead on a moment later
  };
  const leads = me?.roles.some((r) => r.role === "lead");
  return (
    <>
      <Dropdown
        trigger={["click"]}
        menu={{
          selectedKeys: here ? [String(here.id)] : [],
          items: [
            ...all.map((p) => ({ key: String(p.id), label: p.putAway ? `${p.name}, put away` : p.name })),
            { type: "divider" as const },
            ...(here ? [{ key: "people", label: `People of ${here.name}` }] : []),
            ...(leads ? [{ key: "make", label: "New project…" }] : []),
          ],
          onClick: ({ key }) => {
            if (key === "make") setNaming(true);
            else if (key === "people") void go("/project");
            else choose(Number(key));
          },
        }}
      >
        <Button type="text" size="small" aria-label={`Project ${here?.name ?? "none"}`}>
          {here?.name ?? "No project"} <DownOutlined />
        </Button>
      </Dropdown>
      <span className="faint">/</span>
      {naming && (
        <NameDialog
          title="New project"
          ok="Create project"
          cancel={() => setNaming(false)}
          done={(name) => {
            setNaming(false);
            make.mutate(name, { onSuccess: (p) => choose(p.id), onError: (e) => void message.error(e.message) });
          }}
        />
      )}
    </>
  );
}
