import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { acceptInvitation, invited } from "../api/doors";
import { useChange } from "../api/http";
import { Card } from "./Card";
import { NewPassword } from "./NewPassword";

/** InvitedPage has whoever has the link set a password. What is behind # in an address is not sent with it. */
export function InvitedPage() {
  const token = location.hash.slice(1);
  const whose = useQuery({
    queryKey: ["invited", token],
    enabled: token !== "",
    retry: false,
    staleTime: Infinity,
    queryFn: () => invited(token),
  });
  const [password, setPassword] = useState("");
  const accept = useChange(() => acceptInvitation(token, password), []);
  const wrong = token === "" ? "The address is cut off: open the whole link." : whose.error?.message;
  if (wrong) return <Card title="Your password" wrong={wrong} send={() => undefined} children={null} />;
  return (
    <Card
      title={whose.data ? `Welcome, ${whose.data.name}` : "Your password"}
      wrong={accept.error?.message}
      send={() => accept.mutate(undefined)}
    >
      <NewPassword name={whose.data?.name ?? ""} value={password} onChange={setPassword} />
      <Button type="primary" htmlType="submit" disabled={!password} loading={accept.isPending}>
        Set password and sign in
      </Button>
    </Card>
  );
}
