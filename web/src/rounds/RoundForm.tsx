import { Checkbox, Form, Input, Modal, Select } from "antd";
import { useState } from "react";
import type { Round, Terms } from "../api/rounds";
import { roleWords, usePeople } from "../api/projects";
import { kindWords } from "./words";

type Props = {
  project: number;
  title: string;
  ok: string;
  was: Terms;
  first?: boolean;
  busy?: boolean;
  done: (t: Terms) => void;
  cancel: () => void;
};

/** RoundForm asks what a round is of, by when, and who has to answer. */
export function RoundForm({ project, title, ok, was, first, busy, done, cancel }: Props) {
  const people = usePeople(project);
  const [t, set] = useState(was);
  const put = (c: Partial<Terms>) => set({ ...t, ...c });
  const kind = (k: Round["kind"]) =>
    put({ kind: k, title: t.title === "" || t.title === kindWords[t.kind] ? kindWords[k] : t.title });
  return (
    <Modal
      open
      title={title}
      okText={ok}
      okButtonProps={{ disabled: t.title.trim() === "", loading: busy ?? false }}
      onCancel={cancel}
      onOk={() => done(t)}
    >
      <Form layout="vertical" size="small" component="div">
        <Form.Item label="What is to be agreed on">
          <Select
            aria-label="Kind of round"
            value={t.kind}
            onChange={kind}
            options={(Object.keys(kindWords) as Round["kind"][]).map((value) => ({ value, label: kindWords[value] }))}
          />
        </Form.Item>
        <Form.Item label="Title">
          <Input aria-label="Title" value={t.title} maxLength={120} onChange={(e) => put({ title: e.target.value })} />
        </Form.Item>
        <Form.Item label="Due">
          <Input aria-label="Due" type="date" value={t.due} onChange={(e) => put({ due: e.target.value })} />
        </Form.Item>
        <Form.Item label="Note to reviewers">
          <Input.TextArea
            aria-label="Note to reviewers"
            placeholder="What is new, what to look at, when the next round comes"
            autoSize={{ minRows: 2, maxRows: 8 }}
            value={t.note ?? ""}
            maxLength={2000}
            onChange={(e) => put({ note: e.target.value })}
          />
        </Form.Item>
        <Form.Item label="Who has to answer">
          <Select
            mode="multiple"
            optionFilterProp="label"
            aria-label="Who has to answer"
            value={t.asked}
            onChange={(asked: number[]) => put({ asked })}
            options={people.data?.map((p) => ({ value: p.id, label: `${p.name}, ${roleWords[p.role]}` })) ?? []}
          />
        </Form.Item>
        {!first && (
          <Checkbox checked={t.needs} onChange={(e) => put({ needs: e.target.checked })}>
            Needs the previous round approved
          </Checkbox>
        )}
      </Form>
    </Modal>
  );
}
