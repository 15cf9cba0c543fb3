document.querySelector(".print").addEventListener("click", () => print());
