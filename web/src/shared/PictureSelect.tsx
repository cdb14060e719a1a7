import { App, Button, Select } from "antd";
import { useRef, useState } from "react";
import { queryClient, upload, type Schemas } from "../api/http";
import { smallPicture, usePictures } from "../api/scenes";
import { useProject } from "../api/projects";
import styles from "./PictureSelect.module.css";

type Drawn = Schemas["Drawn"];

type Props = {
  label: string;
  /** None: nothing is chosen. */
  picture: Drawn | undefined;
  set: (p: Drawn) => void;
  /** Takes it off; without it one is always there. */
  off?: () => void;
};

const keyOf = (p: Drawn) => `${p.sha256}/${p.name}`;

/** PictureSelect chooses a picture of the shelf, or one that was taken in, or takes one in for the project. */
export function PictureSelect({ label, picture, set, off }: Props) {
  const pictures = usePictures().data ?? [];
  const project = useProject();
  const { message } = App.useApp();
  const input = useRef<HTMLInputElement>(null);
  const [sending, setSending] = useState(false);
  const here = picture?.name ? keyOf(picture) : undefined;
  const known = pictures.some((p) => keyOf(p) === here);
  const take = async (files: FileList | null) => {
    if (!files?.length) return;
    setSending(true);
    try {
      const v = await upload<Schemas["PictureFile"]>(
        `/api/pictures?project=${project?.id ?? 0}`,
        [...files],
        () => undefined,
      );
      await queryClient.invalidateQueries({ queryKey: ["pictures"] });
      set({ name: v.name, sha256: v.sha256 });
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
    setSending(false);
    if (input.current) input.current.value = "";
  };
  return (
    <span className={styles.select}>
      {picture?.name && <img src={smallPicture(picture)} alt="" />}
      <Select
        size="small"
        aria-label={label}
        placeholder="no picture"
        value={here ?? null}
        options={[
          ...(off ? [{ value: "", label: "no picture" }] : []),
          ...(here && !known ? [{ value: here, label: picture!.name }] : []),
          ...pictures.map((p) => ({ value: keyOf(p), label: p.name })),
        ]}
        onChange={(key: string) => {
          if (key === "") return off?.();
          const p = pictures.find((x) => keyOf(x) === key);
          if (p) set({ name: p.name, sha256: p.sha256 });
        }}
      />
      <Button
        size="small"
        loading={sending}
        onClick={() => input.current?.click()}
        aria-label={`${label}: take one in`}
      >
        +
      </Button>
      <input
        ref={input}
        type="file"
        accept=".png,.jpg,.jpeg,.webp"
        hidden
        aria-label={`${label}: file`}
        onChange={(e) => void take(e.target.files)}
      />
    </span>
  );
}
