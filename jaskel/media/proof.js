const audio = document.querySelector("audio");
const words = [...document.querySelectorAll("main span")];
const places = words.map((word) => Number(word.dataset.at));
let read = null;
function follow() {
  let low = 0;
  let high = places.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (places[middle] <= audio.currentTime) low = middle + 1;
    else high = middle;
  }
  const word = words[low - 1] || null;
  if (word === read) return;
  if (read) read.classList.remove("read");
  read = word;
  if (!word) return;
  word.classList.add("read");
  const box = word.getBoundingClientRect();
  if (!audio.paused && (box.top < 0 || box.bottom > innerHeight - 90)) word.scrollIntoView({ block: "center" });
}
document.addEventListener("click", (event) => {
  const part = event.target.closest("[data-at]");
  if (!part) return;
  audio.currentTime = Number(part.dataset.at);
  audio.play();
});
audio.addEventListener("timeupdate", follow);
audio.addEventListener("seeked", follow);
