import { App, Button, Input, Segmented, Select } from "antd";
import { useState } from "react";
import { useChange } from "../api/http";
import {
  addPerson,
  changeProject,
  removePerson,
  renameMe,
  roleWords,
  setRole,
  useMay,
  useMe,
  usePeople,
  useProject,
  type Person,
  type Role,
} from "../api/projects";
import { setMail } from "../api/outbox";
import { NameDialog } from "../shared/NameDialog";
import { useAddress } from "../shared/useAddress";
import { Where } from "../shared/Where";
import { Audit } from "./Audit";
import { Outbox } from "./Outbox";
import { Webhooks } from "./Webhooks";
import { PasswordLink } from "./PasswordLink";
import bits from "../shared/bits.module.css";
import lists from "../shared/lists.module.css";
import styles from "./ProjectPage.module.css";

/** What each role may do, in a line. */
const roleHelp: Record<Role, string> = {
  lead: "everything, with people and projects",
  td: "scenes, jobs, rounds, the library",
  artist: "scenes and jobs",
  reviewer: "looks, and answers in rounds",
};

const roles = (Object.keys(roleWords) as Role[]).map((value) => ({
  value,
  label: `${roleWords[value]}: ${roleHelp[value]}`,
}));

/** ProjectPage is the people of a project, and its name. */
export function ProjectPage() {
  const project = useProject();
  const people = usePeople(project?.id);
  const me = useMe().data;
  const { message } = App.useApp();
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const change = useChange(changeProject, [["projects"]]);
  const [naming, setNaming] = useState(false);
  const leads = useMay(project?.id, "change projects");
  const [query, put] = useAddress();
  const show = leads ? (query.get("show") ?? "people") : "people";
  if (!project) return <div className={bits.empty}>You are in no project yet: its lead takes people in.</div>;
  return (
    <div className={lists.page}>
      <Where title={project.name}>
        <b>People</b>
      </Where>
      <header>
        <h1>
          {project.name}
          {project.putAway && ", put away"}
        </h1>
        {leads && (
          <>
            <Button size="small" onClick={() => setNaming(true)}>
              Rename
            </Button>
            <Button size="small" onClick={() => change.mutate({ id: project.id, putAway: !project.putAway }, fail)}>
              {project.putAway ? "Bring back" : "Put away"}
            </Button>
          </>
        )}
      </header>
      <p className="faint">
        Scenes, jobs, rounds and library entries of a project are seen by its people only; the studio's library by all.
      </p>
      {people.error && (
        <div className={bits.notice} role="alert">
          {people.error.message}
        </div>
      )}
      {leads && (
        <Segmented
          size="small"
          aria-label="About the project"
          value={show}
          onChange={(v) => put({ show: v === "people" ? null : v })}
          options={[
            { value: "people", label: "People" },
            { value: "outbox", label: "Outbox" },
            { value: "webhooks", label: "Webhooks" },
            { value: "audit", label: "Audit trail" },
          ]}
        />
      )}
      {show === "audit" && <Audit key={project.id} project={project.id} />}
      {show === "outbox" && <Outbox key={project.id} project={project.id} />}
      {show === "webhooks" && <Webhooks key={project.id} project={project.id} />}
      {show === "people" && (
        <>
          {people.data?.map((p) => (
            <PersonRow
              key={p.id}
              project={project.id}
              person={p}
              leads={leads}
              mine={p.id === me?.id}
              links={leads && me?.open === false}
            />
          ))}
          {leads && <NewPerson project={project.id} />}
        </>
      )}
      {naming && (
        <NameDialog
          title={`Rename ${project.name}`}
          ok="Rename"
          was={project.name}
          cancel={() => setNaming(false)}
          done={(name) => {
            setNaming(false);
            change.mutate({ id: project.id, name }, fail);
          }}
        />
      )}
    </div>
  );
}

function PersonRow({
  project,
  person,
  leads,
  mine,
  links,
}: {
  project: number;
  person: Person;
  leads: boolean;
  mine: boolean;
  links: boolean;
}) {
  const { message } = App.useApp();
  const fail = { onError: (e: Error) => void message.error(e.message) };
  const stale = [["people", project], ["me"], ["projects"]];
  const role = useChange(setRole, stale);
  const remove = useChange(removePerson, stale);
  const rename = useChange(renameMe, stale);
  const [naming, setNaming] = useState(false);
  return (
    <div className={`${lists.row} ${styles.row}`}>
      <b>
        {person.name}
        {mine && <span className="faint"> · you</span>}
      </b>
      {leads ? (
        <Select
          size="small"
          aria-label={`Role of ${person.name}`}
          value={person.role}
          options={roles}
          onChange={(v) => role.mutate({ id: project, person: person.id, role: v }, fail)}
        />
      ) : (
        <span className="faint">
          {roleWords[person.role]}: {roleHelp[person.role]}
        </span>
      )}
      {leads && <Address key={person.mail} project={project} person={person} />}
      <span className={styles.does}>
        {mine && (
          <Button size="small" type="text" onClick={() => setNaming(true)}>
            Rename
          </Button>
        )}
        {links && !mine && <PasswordLink project={project} person={person} />}
        {leads && (
          <Button size="small" type="text" onClick={() => remove.mutate({ id: project, person: person.id }, fail)}>
            Remove from project
          </Button>
        )}
      </span>
      {naming && (
        <NameDialog
          title="Your name"
          ok="Rename"
          was={person.name}
          cancel={() => setNaming(false)}
          done={(name) => {
            setNaming(false);
            rename.mutate(name, fail);
          }}
        />
      )}
    </div>
  );
}

/** Address is where mail reaches somebody; it is saved when it is left. */
function Address({ project, person }: { project: number; person: Person }) {
  const { message } = App.useApp();
  const set = useChange(setMail, [["people", project], ["my mail"]]);
  const [address, setAddress] = useState(person.mail);
  const save = () =>
    address !== person.mail &&
    set.mutate({ project, person: person.id, address }, { onError: (e) => void message.error(e.message) });
  return (
    <Input
      size="small"
      aria-label={`Mail address of ${person.name}`}
      placeholder="Mail address"
      value={address}
      maxLength={254}
      onChange={(e) => setAddress(e.target.value)}
      onBlur={save}
      onPressEnter={save}
    />
  );
}

function NewPerson({ project }: { project: number }) {
  const { message } = App.useApp();
  const add = useChange(addPerson, [["people", project], ["me"]]);
  const [name, setName] = useState("");
  const [role, setRoleOf] = useState<Role>("artist");
  const send = () =>
    add.mutate(
      { id: project, name, role },
      { onSuccess: () => setName(""), onError: (e) => void message.error(e.message) },
    );
  return (
    <form
      className={`${lists.row} ${styles.row}`}
      onSubmit={(e) => {
        e.preventDefault();
        send();
      }}
    >
      <Input
        size="small"
        aria-label="Name of the new person"
        placeholder="Name"
        value={name}
        maxLength={120}
        onChange={(e) => setName(e.target.value)}
      />
      <Select size="small" aria-label="Their role" value={role} options={roles} onChange={setRoleOf} />
      <Button size="small" htmlType="submit" disabled={name.trim() === ""} loading={add.isPending}>
        Take into the project
      </Button>
    </form>
  );
}
