/** disabledIf disables a field for a reason of its own. Without one it is as what it stands in says: `disabled={false}` would be usable there. */
export const disabledIf = (reason: boolean | undefined) => (reason ? { disabled: true } : {});
