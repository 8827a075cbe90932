// The meter's panel beside the Wall: which device is chosen, and its parts.
export const panel = () => document.querySelector("[data-meter]");
export const device = () => panel()?.querySelector("[data-meter-device]").value || "";
export const part = (name) => panel().querySelector(`[data-meter-${name}]`);
export const field = (name) =>
  document.querySelector(`[data-readings] [name=${name}]`)?.value || "";
