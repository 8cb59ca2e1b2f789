// A window for one seat, or for onlookers: it is shown what may be seen from there, and nothing else reaches it.
import {Board} from './board.js';

const by = (id) => document.getElementById(id);
let seen = null;
let version = '';

async function ask(verb, request) {
  const response = await fetch('ask/' + verb, {
    method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(request)});
  if (!response.ok) throw new Error(await response.text());
  return response.json();
}

const say = (text) => { by('said').textContent = text; };

async function choose(move) {
  const answer = await ask('choose', {move: move.move, ply: seen.ply});
  await look();
  say(answer.error || `You chose ${answer.chosen}.`);
}

function listMoves(moves) {
  by('moves').replaceChildren(...moves.slice(0, 400).map((move) => {
    const button = document.createElement('button');
    button.textContent = move.move;
    button.addEventListener('click', () => choose(move).catch(trouble));
    return button;
  }));
}

const board = new Board(by('board'), {
  choose: (moves) => {
    if (moves.length === 1) choose(moves[0]).catch(trouble);
    else say(moves.length + ' moves fit: choose a second place, or one in the list.');
    listMoves(moves);
  },
  refuse: () => say(seen.moves.length === 0 ? 'It is not your turn to choose.' : 'No move of yours is legal there.'),
});

function stateOf(answer) {
  if (answer.over) return 'over: ' + answer.outcome;
  if (answer.moves.length > 0) return `ply ${answer.ply}: choose a move`;
  if (answer.chosen.includes(answer.role)) return `ply ${answer.ply}: waiting for the others`;
  return `ply ${answer.ply}: ${answer.to_move.join(' and ')} to move`;
}

async function look() {
  const answer = await ask('look', {seen: version});
  if (answer.error) { by('state').textContent = answer.error; return; }
  if (answer.version === version) return;
  version = answer.version;
  seen = answer;
  const who = answer.role || 'onlookers';
  by('name').textContent = who;
  document.title = who + ' – seat';
  by('state').textContent = stateOf(answer);
  say('');
  if (answer.svg) board.draw(answer.svg, answer.moves);
  else by('board').shadowRoot.replaceChildren();
  listMoves(answer.moves);
  by('words').replaceChildren(...(answer.words || []).map((word) => {
    const item = document.createElement('li');
    item.textContent = word;
    return item;
  }));
}

function trouble() { by('state').textContent = 'The desk does not answer.'; }

async function watch() {
  await look().catch(trouble);
  setTimeout(watch, document.hidden ? 2000 : 400);
}
watch();
