import { MoreOutlined } from "@ant-design/icons";
import { Button, Dropdown } from "antd";

export type Action = { key: string; label: string; run: () => void; disabled?: boolean };

/** RowMenu is what else can be done with a row, beside opening it. */
export function RowMenu({ name, actions }: { name: string; actions: Action[] }) {
  return (
    <Dropdown
      trigger={["click"]}
      menu={{
        items: actions.map(({ key, label, disabled }) => ({ key, label, disabled })),
        onClick: ({ key, domEvent }) => {
          domEvent.stopPropagation();
          actions.find((a) => a.key === key)?.run();
        },
      }}
    >
      <Button
        size="small"
        type="text"
        icon={<MoreOutlined />}
        aria-label={`More for ${name}`}
        onClick={(e) => e.preventDefault()}
      />
    </Dropdown>
  );
}
