// What is typed but not recorded survives leaving the page, and goes only when the server has said
// that it is saved.
const FIELDS = "#work input.form-control[name]:not([type=file]), #work textarea[name]";
const draftKey = (field, path = location.pathname) => `draft ${path} ${field.name}`;

const keep = (field) => {
  if (field.matches(FIELDS) && field.type !== "date" && !("noDraft" in field.dataset))
    sessionStorage.setItem(draftKey(field), field.value);
};

export const forget = (form, path) =>
  form
    .querySelectorAll("[name]")
    .forEach((field) => sessionStorage.removeItem(draftKey(field, path)));

export const restore = () =>
  document.querySelectorAll(FIELDS).forEach((field) => {
    const draft = sessionStorage.getItem(draftKey(field));
    if (draft === null || field.type === "date" || draft === field.value) return;
    field.value = draft;
    field.classList.add("draft");
    field.dispatchEvent(new Event("input", { bubbles: true }));
  });

document.addEventListener("input", (event) => keep(event.target));
