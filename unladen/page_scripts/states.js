// The states that selectors name and that can be forced on.
(() => {
  const STATES = ["hover", "focus", "focus-visible", "focus-within", "active", "checked", "disabled", "enabled", "invalid", "valid", "in-range", "out-of-range", "optional", "read-write", "user-valid", "user-invalid", "required", "placeholder-shown", "target", "visited", "link", "open", "indeterminate", "read-only", "default", "fullscreen", "popover-open", "modal", "autofill", "empty"];
  return () => STATES;
})()
