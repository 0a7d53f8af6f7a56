// A recipe: found by what it does, drawn; what the chosen one asks for is shown in its order, and sent.
import { post } from "./session.js";
import { Drawer } from "./drawer.js";
import { READ } from "./values.js";

export function recipe() {
  return {
    init() {
      const root = this.$root;
      const form = root.querySelector("#recipe-form");
      if (!form) return;
      const drawer = new Drawer(root, "#recipes-none");
      const show = (yes) => form.classList.toggle("is-hidden", !yes);
      root.addEventListener("click", (event) => {
        const card = event.target.closest(".recipe-card");
        if (!card) return;
        drawer.close();
        this.choose(form, card);
        show(true);
        form.querySelector("#recipe-make").focus();
      });
      root.querySelector("#recipe-leave").addEventListener("click", () => {
        show(false);
        drawer.field.focus();
      });
      form.addEventListener("submit", (event) => {
        event.preventDefault();
        event.stopPropagation();
        post("recipe", { recipe: form.dataset.recipe, given: this.given(form) }, form.querySelector("#recipe-make")).then((done) => {
          if (!done) return;
          document.getElementById("recipe-form")?.classList.add("is-hidden");
          document.getElementById("machine-name")?.focus({ preventScroll: true });
        });
      });
    },
    asks: (form) => [...form.querySelectorAll(".recipe-ask")],
    choose(form, card) {
      form.dataset.recipe = card.dataset.recipe;
      form.querySelector(".recipe-says b").textContent = `${card.querySelector("b").textContent}.`;
      form.querySelector(".recipe-says span").textContent = card.title;
      for (const ask of this.asks(form)) {
        ask.hidden = !ask.dataset.recipes.split(" ").includes(card.dataset.recipe);
        ask.classList.toggle("is-hidden", ask.hidden);
      }
      // In the recipe's own order, for the eye and for the keyboard.
      const place = (ask) => card.dataset.order.split("|").indexOf(ask.dataset.label);
      const shown = this.asks(form).filter((ask) => !ask.hidden).sort((a, b) => place(a) - place(b));
      form.querySelector(".recipe-acts").before(...shown);
    },
    given(form) {
      const shown = this.asks(form).filter((ask) => !ask.hidden);
      return Object.fromEntries(
        shown.map((ask) => {
          const several = ask.querySelector(".recipe-many");
          if (several) return [ask.dataset.ask, [...several.querySelectorAll("input:checked")].map((one) => one.value)];
          const field = ask.querySelector("select, input");
          const reads = { time: READ.s, number: READ.int }[ask.dataset.kind];
          return [ask.dataset.ask, reads ? reads(field.value) : field.value];
        }),
      );
    },
  };
}
