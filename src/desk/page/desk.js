// The desk: what is typed, where play stands, and what was asked. The desk answers from text and line alone, so
// all of the state is here.
import {TextField} from './editor.js';
import {Board} from './board.js';
import {askingOf} from './asking.js';
import {seatsOf} from './seats.js';
import {writingOf} from './writing.js';

const by = (id) => document.getElementById(id);
const papers = ['rules', 'cases', 'claims', 'drawing'];

const state = {
  stamps: {},       // of the files as they were read
  saved: {},        // texts as they are in the files
  plies: [],        // every ply of the line of play, those that were taken back too
  at: 0,            // how many of them are made
  sizes: {},
  turned: false,
  branches: [],     // lines that were left: {from, plies}
  pending: {},      // choices of roles that choose at once
  seats: {},        // role → opponent; a person if there is none
  running: false,
  seen: null,       // what `look` gave last
  number: 0,        // of the latest look
  values: new Map(),
};

async function ask(verb, request = {}) {
  const response = await fetch('ask/' + verb, {
    method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(request)});
  if (!response.ok) throw new Error(await response.text());
  return response.json();
}

function made(name, attributes = {}, ...children) {
  const element = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) {
    if (key.startsWith('on')) element.addEventListener(key.slice(2), value);
    else if (key === 'class') element.className = value;
    else if (value !== undefined && value !== false) element.setAttribute(key, value === true ? '' : value);
  }
  element.append(...children);
  return element;
}

const say = (text) => { by('said').textContent = text; };

function asked(more = {}) {
  return {rules: text.text('rules'), drawing: text.text('drawing'), sizes: state.sizes,
          line: state.plies.slice(0, state.at), turned: state.turned,
          dice_by_hand: Object.values(state.seats).includes('hand'), ...more};
}

// ---- Text ----

const text = new TextField(by('editor'), (paper) => {
  keepSoon();
  showSaved();
  if (paper === 'cases') casesSoon();
  else if (paper !== 'claims') lookSoon();
});

function later(wait, work) {
  let timer = null;
  return (...what) => { clearTimeout(timer); timer = setTimeout(() => work(...what), wait); };
}

const unsaved = () => papers.filter((paper) => text.text(paper) !== state.saved[paper]);
function showSaved() {
  const open = unsaved();
  by('saved').textContent = open.length === 0 ? 'saved' : 'not saved: ' + open.join(', ');
}
const keepSoon = later(800, () => {
  const texts = {};
  for (const paper of unsaved()) texts[paper] = text.text(paper);
  ask('keep', {text: Object.keys(texts).length === 0 ? '' : JSON.stringify(texts)}).catch(trouble);
});

async function save() {
  for (const paper of unsaved()) {
    const typed = text.text(paper);
    const answer = await ask('save', {kind: paper, text: typed, stamp: state.stamps[paper]});
    if (answer.error) { notice(answer.error); return; }
    if (answer.conflict) { offerConflict(paper, answer.conflict); return; }
    state.stamps[paper] = answer.stamp;
    state.saved[paper] = typed;
  }
  keepSoon();
  showSaved();
}

function notice(message, ...buttons) {
  const place = by('notice');
  place.replaceChildren(message, ...buttons);
  place.hidden = message === '';
}
const done = () => notice('');

function offerConflict(paper, there) {
  const own = text.text(paper);
  notice(`The file of the ${paper} was changed by somebody else since it was read.`,
         made('button', {onclick: () => {
           text.set(paper, there.text); state.stamps[paper] = there.stamp; state.saved[paper] = there.text;
           done(); showSaved(); lookSoon(); casesSoon();
         }}, 'Take what is there'),
         made('button', {onclick: () => { state.stamps[paper] = there.stamp; done(); save().catch(trouble); }}, 'Write mine over it'),
         made('button', {onclick: () => {
           text.set(paper, own + '\n; ---- what is in the file ----\n' + there.text.replace(/^/gm, '; '));
           state.stamps[paper] = there.stamp; done(); showSaved();
         }}, 'Show both'));
}

function trouble(fault) {
  notice('The desk does not answer: ' + fault.message + '. What you typed stays here.',
         made('button', {onclick: () => { done(); look().catch(trouble); }}, 'Try again'));
}

function showPaper(paper) {
  text.show(paper);
  for (const tab of by('papers').children) tab.setAttribute('aria-selected', String(tab.dataset.paper === paper));
  showFindings();
}

function showFindings() {
  const seen = state.seen || {findings: [], drawing_findings: []};
  const findings = text.shown === 'drawing' ? seen.drawing_findings : text.shown === 'rules' ? seen.findings : [];
  if (text.shown === 'rules' || text.shown === 'drawing') text.underline(text.shown, findings);
  by('findings').replaceChildren(...findings.slice(0, 50).map((one) =>
    made('li', {class: one.severity, tabindex: 0, onclick: () => text.go(one.line, one.column),
                onkeydown: (event) => { if (event.key === 'Enter') text.go(one.line, one.column); }},
         `${one.line ? one.line + ':' + one.column + '  ' : ''}${one.message}`,
         ...(one.remedy ? [made('small', {}, one.remedy)] : []),
         ...(one.fixes || []).map((fix) => made('button', {class: 'fix', title: 'Alt+Enter does the first', onclick: (event) => {
           event.stopPropagation();
           writing.mend(fix);
         }}, fix.title)))));
}

// ---- Board and line of play ----

const board = new Board(by('board'), {
  choose: (moves) => {
    if (moves.length === 1) make(moves[0]).catch(trouble);
    else say(moves.length + ' moves fit: choose a second place, or one in the list.');
    listMoves(moves);
  },
  refuse: async (places) => {
    const role = (state.seen.to_move || [])[0];
    if (!role) { say('The game is over.'); return; }
    const answer = await ask('refusal', asked({role, places}));
    say(answer.sentence || answer.error);
    if (answer.question) by('question').value = answer.question;
    if (answer.lines) text.light('rules', answer.lines);
  },
});

async function make(move) {
  state.pending[move.role] = move.move;
  const answer = await look({make: state.pending});
  if (answer.waiting) say('Now ' + answer.waiting.join(' and ') + ' must choose, without seeing it.');
}

function listMoves(moves) {
  const list = moves.slice(0, 400).map((move) => {
    const button = made('button', {onclick: () => make(move).catch(trouble), title: move.role + ' ' + move.move,
                                   onmouseenter: () => tellEffect(move), onfocus: () => tellEffect(move)}, move.move);
    const value = state.values.get(move.role + ' ' + move.move);
    if (value !== undefined) button.append(made('span', {class: 'value'}, String(Math.round(value * 10) / 10)));
    return button;
  });
  if (moves.length > 400) list.push(made('span', {}, `… and ${moves.length - 400} more: click on the board`));
  by('moves').replaceChildren(...list);
}

// What a move would change, while it is pointed at.
const tellEffect = later(350, async (move) => {
  const answer = await ask('effect', asked({role: move.role, move: move.move})).catch(() => null);
  if (!answer || !state.seen || !state.seen.reads) return;
  say(answer.error ? `${move.move}: ${answer.error}`
    : `${move.move}: ` + ([...answer.gone.map((one) => '−' + one), ...answer.new.map((one) => '+' + one)].join('  ') || 'changes nothing'));
});

// Asks for everything that is shown; answers that come too late are left.
async function look(more = {}) {
  const number = ++state.number;
  const request = asked(more);
  const answer = await ask('look', request);
  answer.of_rules = request.rules;
  if (number !== state.number) return answer;
  state.seen = answer;
  showFindings();
  by('board').classList.toggle('stale', !answer.reads);
  by('moves').classList.toggle('stale', !answer.reads);
  if (!answer.reads) {
    by('state').textContent = 'does not read';
    say((answer.findings[0] || {message: ''}).message);
    return answer;
  }
  if (answer.refused) say(answer.refused);
  else if (answer.broke) say(answer.broke);
  else if (!answer.waiting) say('');
  if (answer.line.length !== state.at || more.make) {
    const ahead = state.plies.slice(0, answer.line.length);
    if (JSON.stringify(ahead) !== JSON.stringify(answer.line)) {
      keepBranch(answer.line);
      state.plies = answer.line;
      state.at = answer.line.length;
      state.pending = {};
    } else {
      state.at = answer.line.length;
      if (answer.line.length > 0 && !answer.waiting) state.pending = {};
    }
    state.values.clear();
    if (more.make) seats.count(answer);
  }
  board.draw(answer.svg, answer.moves);
  listMoves(answer.moves);
  by('state').textContent = answer.over ? 'over: ' + answer.outcome
    : `ply ${state.at}, ${answer.to_move.join(' and ')} to move`;
  if (answer.hidden) by('state').textContent += ' (hidden things are shown here, too)';
  by('back').disabled = by('begin').disabled = state.at === 0;
  by('on').disabled = state.at >= state.plies.length;
  seats.show(answer);
  asking.show(answer);
  writing.show(answer);
  stripSoon();
  if (state.running) runSoon();
  return answer;
}
// One look after the other: of what was typed meanwhile the last is looked at.
let looking = false;
let typedMeanwhile = false;
const lookSoon = later(60, async () => {
  if (looking) { typedMeanwhile = true; return; }
  looking = true;
  await look().catch(trouble);
  looking = false;
  casesSoon();
  if (typedMeanwhile) { typedMeanwhile = false; lookSoon(); }
});

function goAlong(line) {
  keepBranch(line);
  state.plies = line;
  go(line.length);
}
function go(at) {
  state.at = Math.max(0, Math.min(at, state.plies.length));
  state.pending = {};
  state.values.clear();
  look().catch(trouble);
}

// Plies that another move would leave behind stay as a branch.
function keepBranch(line) {
  let same = 0;
  while (same < line.length && same < state.plies.length &&
         JSON.stringify(line[same]) === JSON.stringify(state.plies[same])) ++same;
  if (same >= state.plies.length) return;  // nothing is left behind
  state.branches = state.branches.filter((branch) => !startsWith(state.plies, branch.plies));
  state.branches.push({from: same, plies: state.plies.slice()});
  if (state.branches.length > 12) state.branches.shift();
  showBranches();
}
const startsWith = (line, beginning) =>
  beginning.every((ply, i) => JSON.stringify(ply) === JSON.stringify(line[i]));
function showBranches() {
  by('branches').replaceChildren(...state.branches.map((branch, i) => {
    // A bare name beside a move with arguments is somebody waiting.
    const moves = Object.values(branch.plies[branch.from]);
    const done = moves.filter((move) => move.startsWith('('));
    const first = (done.length > 0 ? done : moves).join(' ');
    return made('button', {title: 'Go back to this branch; what is played now stays as one, too', onclick: () => {
      state.branches.splice(i, 1);
      keepBranch(branch.plies);
      state.plies = branch.plies;
      showBranches();
      go(branch.from + 1);
    }}, `from ply ${branch.from}: ${first} … ${branch.plies.length} plies`);
  }));
}

const stripSoon = later(250, async () => {
  const wanted = state.plies.slice();
  if (wanted.length === 0 || !state.seen || !state.seen.reads) { by('strip').replaceChildren(); return; }
  const answer = await ask('strip', {...asked(), line: wanted}).catch(() => null);
  if (!answer || !answer.pictures) return;
  by('strip').replaceChildren(...answer.pictures.map((picture, i) => {
    const ply = answer.first + i;
    return made('button', {onclick: () => go(ply), 'aria-current': String(ply === state.at), title: 'ply ' + ply},
                made('img', {src: 'data:image/svg+xml;charset=utf-8,' + encodeURIComponent(picture), alt: 'ply ' + ply}));
  }));
});

// ---- Seats and questions ----

const desk = {state, text, board, ask, asked, by, made, say, go, goAlong, look, listMoves, trouble, notice, done, showPaper,
              changed: () => { showSaved(); keepSoon(); lookSoon(); casesSoon(); },
              seated: () => { if (state.running) runSoon(); }};
const asking = askingOf(desk);
const seats = seatsOf(desk);
const writing = writingOf(desk);

// Lets every opponent whose turn it is choose; false if nobody's is.
async function step() {
  const seen = state.seen;
  if (!seen || !seen.reads || seen.over || state.at !== seen.line.length) return false;
  const choosing = seen.choosing.length > 0 ? seen.choosing : seen.to_move;
  const chance = new Set(seen.roles.filter((role) => role.chance).map((role) => role.name));
  let any = choosing.every((role) => chance.has(role)) && !seats.diceByHand();
  for (const role of choosing) {
    const who = seats.opponent(role);
    if (!who || chance.has(role) || state.pending[role]) continue;
    const answer = await ask('opponent', asked({role, who, seed: Math.floor(Math.random() * 1e9)}));
    if (answer.error) { say(answer.error); return false; }
    state.pending[role] = answer.move;
    any = true;
  }
  if (!any && seen.choosing.length === 0) any = true;  // nobody has a choice
  if (!any) return false;
  await look({make: state.pending});
  return true;
}
const runSoon = later(350, async () => {
  if (!state.running) return;
  const moved = await step().catch((fault) => { trouble(fault); return false; });
  if (!moved && state.seen && state.seen.over) setRunning(false);
});
function setRunning(on) {
  state.running = on;
  by('run').setAttribute('aria-pressed', String(on));
  if (on) runSoon();
}

// ---- Cases ----

let casesAsked = 0;
const casesSoon = later(200, async () => {
  const number = ++casesAsked;
  const cases = text.text('cases');
  by('cases-count').textContent = '';
  if (cases.trim() === '') { by('case-list').replaceChildren(made('li', {}, 'There are no cases yet.')); return; }
  const answer = await ask('cases', asked({cases})).catch(() => null);
  if (!answer || number !== casesAsked) return;  // what was asked since counts
  const list = by('case-list');
  if (!answer.cases) {
    list.replaceChildren(...(answer.findings || [{message: answer.error}]).map((one) =>
      made('li', {class: 'failed'}, `${one.line ? 'line ' + one.line + ': ' : ''}${one.message}`)));
    if (answer.findings) text.underline('cases', answer.findings);
    return;
  }
  const bad = answer.cases.filter((one) => !one.passed).length;
  by('cases-count').textContent = bad > 0 ? `✗ ${bad}` : `✓ ${answer.cases.length}`;
  by('cases-count').className = bad > 0 ? 'failed' : 'passed';
  text.underline('cases', answer.cases.flatMap((one) => (one.failures || []).map((f) =>
    ({line: f.line, column: 1, width: 200, severity: 'error', message: f.expected + '\nfound: ' + f.found}))));
  list.replaceChildren(...answer.cases.sort((a, b) => a.passed - b.passed).map((one) => {
    const item = made('li', {}, made('b', {class: one.passed ? 'passed' : 'failed'}, one.passed ? '✓ passed ' : '✗ failed '), one.name);
    for (const failure of one.failures || []) {
      item.append(made('small', {}, made('br'), `line ${failure.line}: expected ${failure.expected}; found: ${failure.found}`));
    }
    if (one.svg) item.append(made('br'), made('img', {class: 'small-board', alt: 'where it fails',
                              src: 'data:image/svg+xml;charset=utf-8,' + encodeURIComponent(one.svg)}));
    return item;
  }));
});

async function positionAsCase() {
  const name = prompt('What does the case say?', `the position after ply ${state.at}`);
  if (!name) return;
  const {form} = await ask('position', asked());
  text.append('cases', `\n(case ${JSON.stringify(name)}\n  ${form.trim().replaceAll('\n', '\n  ')}\n  (expect ${state.seen.over ? 'terminal' : '(not terminal)'}))\n`);
  casesSoon(); showSaved(); keepSoon();
  showPaper('cases');
}
async function neverThisPosition() {
  const name = prompt('What does the claim say?', `the position after ply ${state.at} never comes about`);
  if (!name) return;
  const {formula} = await ask('position', asked());
  text.append('claims', `\n(claim ${JSON.stringify(name)}\n  (never ${formula}))\n`);
  showSaved(); keepSoon();
  showPaper('claims');
}

function lineAsCase() {
  const name = prompt('What does the case say?', `after ply ${state.at}`);
  if (!name) return;
  const plies = state.plies.slice(0, state.at).map((ply) =>
    '(joint ' + Object.entries(ply).map(([role, move]) => `(${role} ${move})`).join(' ') + ')');
  const seen = state.seen;
  const goals = Object.entries(seen.goals || {}).map(([role, goal]) => `(goal ${role} ${goal})`);
  const expected = seen.over ? ['terminal', ...goals] : ['(not terminal)'];
  text.append('cases', `\n(case ${JSON.stringify(name)}\n  (start)\n` +
    (plies.length > 0 ? `  (moves ${plies.join('\n         ')})\n` : '') + `  (expect ${expected.join(' ')}))\n`);
  casesSoon(); showSaved(); keepSoon();
  showPaper('cases');
}

// ---- Buttons and keys ----

function showTool(name) {
  for (const tool of document.querySelectorAll('.tool')) tool.classList.toggle('shown', tool.id === name);
  for (const tab of by('tools').children) tab.setAttribute('aria-selected', String(tab.dataset.tool === name));
}
for (const tab of by('tools').children) tab.addEventListener('click', () => showTool(tab.dataset.tool));
for (const tab of by('papers').children) tab.addEventListener('click', () => showPaper(tab.dataset.paper));
by('save').addEventListener('click', () => save().catch(trouble));
by('begin').addEventListener('click', () => go(0));
by('back').addEventListener('click', () => go(state.at - 1));
by('on').addEventListener('click', () => go(state.at + 1));
by('turn').addEventListener('click', () => { state.turned = !state.turned; look().catch(trouble); });
by('step').addEventListener('click', () => step().then((moved) => {
  if (!moved) say('It is a person\'s turn: give the seat to an opponent, or make the move.');
}).catch(trouble));
by('run').addEventListener('click', () => setRunning(!state.running));
by('to-case').addEventListener('click', lineAsCase);
by('position-to-case').addEventListener('click', () => positionAsCase().catch(trouble));
by('position-to-claim').addEventListener('click', () => neverThisPosition().catch(trouble));
by('new-game').addEventListener('click', () => { keepBranch([]); state.plies = []; go(0); });
document.addEventListener('keydown', (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key === 's') { event.preventDefault(); save().catch(trouble); }
  if (!event.altKey) return;
  const at = {ArrowLeft: state.at - 1, ArrowRight: state.at + 1}[event.key];
  if (at !== undefined) { event.preventDefault(); go(at); }
  if (event.key === 'n') { event.preventDefault(); by('step').click(); }
  if (event.key === 'r') { event.preventDefault(); by('run').click(); }
});
window.addEventListener('beforeunload', (event) => { if (unsaved().length > 0) event.preventDefault(); });

// Changes that were made outside show up.
async function watchFiles() {
  const there = await ask('open').catch(() => null);
  if (!there) return;
  for (const paper of papers) {
    const file = there.files[paper];
    if (file.stamp === state.stamps[paper]) continue;
    if (text.text(paper) === state.saved[paper]) {
      text.set(paper, file.text);
      state.stamps[paper] = file.stamp;
      state.saved[paper] = file.text;
      lookSoon();
    } else if (by('notice').hidden) {
      offerConflict(paper, file);
    }
  }
  showSaved();
}

async function open() {
  const there = await ask('open');
  state.opponents = there.opponents;
  state.sizes = there.sizes || {};
  const name = there.files.rules.path.split('/').pop();
  by('name').textContent = name;
  document.title = name + ' – desk';
  for (const paper of papers) {
    state.stamps[paper] = there.files[paper].stamp;
    state.saved[paper] = there.files[paper].text;
    text.set(paper, there.files[paper].text);
  }
  showPaper('rules');
  showTool('cases-tool');
  if (there.unsaved) {
    notice('There is text that was typed and not saved.',
           made('button', {onclick: () => {
             for (const [paper, typed] of Object.entries(there.unsaved)) if (papers.includes(paper)) text.set(paper, typed);
             done(); showSaved(); lookSoon();
           }}, 'Go on with it'),
           made('button', {onclick: () => { done(); ask('keep', {text: ''}).catch(trouble); }}, 'Leave it'));
  }
  showSaved();
  await look();
  casesSoon();
  setInterval(() => { if (!document.hidden) watchFiles(); }, 2500);
}
open().catch(trouble);
