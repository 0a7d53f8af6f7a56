// A recipe: only what the chosen one asks for is shown, in its order, and sent.
import { post } from "./session.js";
import { READ } from "./values.js";

export function recipe() {
  return {
    words: "",
    get says() {
      return this.words;
    },
    init() {
      const select = this.$root.querySelector("#recipe");
      const kept = sessionStorage.getItem("recipe");
      if (kept && [...select.options].some((option) => option.value === kept)) select.value = kept;
      select.addEventListener("change", () => this.choose(select));
      this.$root.addEventListener("submit", (event) => {
        event.preventDefault();
        event.stopPropagation();
        post("recipe", { recipe: select.value, given: this.given() }, this.$root.querySelector("#recipe-make"));
      });
      this.choose(select);
    },
    asks() {
      return [...this.$root.querySelectorAll(".recipe-ask")];
    },
    choose(select) {
      const { says, order } = select.selectedOptions[0].dataset;
      sessionStorage.setItem("recipe", select.value);
      this.words = says;
      for (const ask of this.asks()) {
        ask.hidden = !ask.dataset.recipes.split(" ").includes(select.value);
        ask.classList.toggle("is-hidden", ask.hidden);
      }
      // In the recipe's own order, for the eye and for the keyboard.
      const place = (ask) => order.split("|").indexOf(ask.dataset.label);
      const shown = this.asks().filter((ask) => !ask.hidden).sort((a, b) => place(a) - place(b));
      this.$root.querySelector(".recipe-acts").before(...shown);
    },
    given() {
      const shown = this.asks().filter((ask) => !ask.hidden);
      return Object.fromEntries(
        shown.map((ask) => {
          const field = ask.querySelector("select, input");
          const reads = { time: READ.s, number: READ.int }[ask.dataset.kind];
          return [ask.dataset.ask, reads ? reads(field.value) : field.value];
        }),
      );
    },
  };
}
