import { Input } from "antd";

type Props = { name: string; value: string; onChange: (v: string) => void };

/** NewPassword asks for a password to be set. */
export function NewPassword({ name, value, onChange }: Props) {
  return (
    <label>
      New password
      {/* For password managers, which keep it under this name. */}
      <input hidden readOnly autoComplete="username" value={name} />
      <Input.Password
        autoFocus
        autoComplete="new-password"
        value={value}
        maxLength={200}
        onChange={(e) => onChange(e.target.value)}
      />
      <span className="faint">At least 10 letters; a few words are easy to keep in mind.</span>
    </label>
  );
}
