// The page of hosted matches: three small files that are served as they stand here.
#pragma once

#include <string_view>

namespace orchard::protocol {

// clang-format off
inline constexpr std::string_view board_page = R"PAGE(<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Matches</title>
<link rel="icon" href="data:,">
<link rel="stylesheet" href="board.css">
<script type="module" src="board.js"></script>
</head>
<body>
<header><h1 id="game">Matches</h1><span id="state" role="status" aria-live="polite"></span></header>
<main id="boards" aria-label="Boards"></main>
<section aria-label="Results"><ol id="results"></ol></section>
</body>
</html>
)PAGE";

inline constexpr std::string_view board_style = R"STYLE(:root {
  color-scheme: light dark;
  --paper: #fbf8f1; --sheet: #ffffff; --ink: #2b2620; --quiet: #6f6552; --edge: #d8cdb6; --accent: #7b3f9b;
}
@media (prefers-color-scheme: dark) {
  :root { --paper: #1e1c19; --sheet: #262320; --ink: #ece5d8; --quiet: #a99e8a; --edge: #4a4335; --accent: #c99be6; }
}
* { box-sizing: border-box; }
body { margin: 0; padding: 12px 18px; background: var(--paper); color: var(--ink);
       font: 14px/1.45 'DejaVu Sans', Verdana, sans-serif; }
header { display: flex; gap: 16px; align-items: baseline; }
h1 { font-size: 18px; margin: 0 0 10px; }
#state { color: var(--quiet); }
#boards { display: grid; gap: 14px; grid-template-columns: repeat(auto-fit, minmax(300px, 1fr)); }
article { background: var(--sheet); border: 1px solid var(--edge); border-radius: 8px; padding: 10px; }
article.over { border-color: var(--accent); }
h2 { font-size: 14px; margin: 0; }
article p { margin: 2px 0 8px; color: var(--quiet); min-height: 1.45em; }
.board svg { width: 100%; height: auto; max-height: 33vh; display: block; }
#results { list-style: none; padding: 0; margin: 14px 0 0; color: var(--quiet); columns: 26em; }
)STYLE";

inline constexpr std::string_view board_script = R"SCRIPT(// Asks what is played now, and draws what has changed.
let seen = 0;
const boards = document.getElementById('boards');

function card(number) {
  let article = document.getElementById('match' + number);
  if (article) return article;
  article = document.createElement('article');
  article.id = 'match' + number;
  article.innerHTML = '<h2></h2><p></p><div class="board"></div>';
  boards.append(article);
  return article;
}

function show(now) {
  document.getElementById('game').textContent = now.game;
  document.title = now.game;
  const playing = now.boards.filter(board => !board.result).length;
  document.getElementById('state').textContent =
    `${playing} being played, ${now.results.length} ended`;
  const there = new Set(now.boards.map(board => 'match' + board.number));
  for (const article of [...boards.children]) if (!there.has(article.id)) article.remove();
  for (const board of now.boards) {
    const article = card(board.number);
    article.classList.toggle('over', Boolean(board.result));
    article.style.order = board.result ? 1 : 0;  // those that are played come first
    article.querySelector('h2').textContent = `match ${board.number}, ply ${board.ply}`;
    article.querySelector('p').textContent = board.result || board.who;
    if (board.svg) article.querySelector('.board').innerHTML = board.svg;
    else if (board.svg === '') article.querySelector('.board').textContent =
      'What is hidden from the players is shown when the match is over.';
  }
  document.getElementById('results').replaceChildren(...now.results.map(text => {
    const item = document.createElement('li');
    item.textContent = text;
    return item;
  }));
  seen = now.version;
}

async function look() {
  try {
    show(await (await fetch('now?seen=' + seen)).json());
    setTimeout(look, 300);
  } catch {
    document.getElementById('state').textContent = 'the host has ended';
    setTimeout(look, 2000);
  }
}
look();
)SCRIPT";
// clang-format on

}  // namespace orchard::protocol
