// Night and day, dialogs, printing, and texts with two readings.

// Night and day change in place, so that nothing typed is disturbed; without script the button's
// form does it.
const changeTheme = (button) => {
  const theme = button.value;
  document.documentElement.dataset.bsTheme = theme === "day" ? "light" : "dark";
  document.cookie = `theme=${theme}; path=/; max-age=31536000; samesite=lax`;
  button.value = theme === "day" ? "night" : "day";
  button.textContent = theme === "day" ? "Day" : "Night";
};

// The reading tapped is written in the text's place, and the field has the focus again.
const write = (field, text) => {
  field.value = text;
  field.focus();
  field.dispatchEvent(new Event("input", { bubbles: true }));
};

document.addEventListener("click", (event) => {
  const theme = event.target.closest("button[name=theme]");
  if (theme) {
    event.preventDefault();
    changeTheme(theme);
    return;
  }
  const opener = event.target.closest("[data-open]");
  if (opener) document.getElementById(opener.dataset.open).showModal();
  if (event.target.closest("[data-print]")) window.print();
  const meant = event.target.closest("[data-means]");
  if (meant) write(document.getElementById(meant.dataset.into), meant.dataset.means);
});

// Preferences come back to where one is, even after parts of the page were swapped.
document.addEventListener("submit", (event) => {
  const back = event.target.querySelector("[name=back]");
  if (event.target.closest(".top-links") && back) back.value = location.pathname + location.search;
});
