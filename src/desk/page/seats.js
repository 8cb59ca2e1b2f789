// Who sits where: persons at this desk or at windows of their own, opponents, dice; and how games came out.

// `desk` is what the page shares.
export function seatsOf(desk) {
  const {state, ask, asked, by, made, say, look, trouble} = desk;
  const window_seat = 'window';
  let shown = '';
  let addresses = {seats: {}, onlookers: ''};

  const atWindows = () => Object.keys(state.seats).filter((role) => state.seats[role] === window_seat);
  const address = (token) => new URL('../' + token + '/', location.href).href;

  function link(token, text) {
    return made('a', {href: address(token), target: '_blank', rel: 'noopener', class: 'window'}, text);
  }

  function show(answer) {
    const key = JSON.stringify([answer.roles, addresses]);
    if (key === shown) return;
    shown = key;
    const seats = answer.roles.map((role) => {
      const options = role.chance
        ? [made('option', {value: ''}, 'drawn'), made('option', {value: 'hand'}, 'by hand')]
        : [made('option', {value: ''}, 'a person'), made('option', {value: window_seat}, 'a window'),
           ...state.opponents.map((name) => made('option', {value: name}, name))];
      const choice = made('select', {'data-role': role.name, onchange: (event) => {
        state.seats[role.name] = event.target.value;
        share().catch(trouble);
        if (role.chance) look().catch(trouble);
        desk.seated();
      }}, ...options);
      choice.value = state.seats[role.name] || '';
      const open = addresses.seats[role.name];
      return made('label', {}, role.name + ':', choice, ...(open && atWindows().includes(role.name) ? [link(open, 'open')] : []));
    });
    if (atWindows().length > 0 && addresses.onlookers) seats.push(link(addresses.onlookers, 'for onlookers'));
    by('seats').replaceChildren(...seats);
  }

  // Tells the table where play stands; when all at windows have chosen, their moves are made.
  let sharing = false;
  let lastChosen = '';
  async function share() {
    if (sharing || !state.seen || !state.seen.reads) return;
    if (atWindows().length === 0 && Object.keys(addresses.seats).length === 0) return;
    sharing = true;
    const line = state.at;
    const answer = await ask('table', asked({seats: atWindows()})).finally(() => { sharing = false; });
    if (answer.error) return;
    addresses = {seats: answer.seats, onlookers: answer.onlookers};
    show(state.seen);
    const chosen = answer.chosen.join(' and ');
    if (chosen !== lastChosen && chosen !== '') say(chosen + (answer.chosen.length > 1 ? ' have' : ' has') + ' chosen.');
    lastChosen = chosen;
    if (!answer.choices || line !== state.at) return;
    const before = JSON.stringify(state.pending);
    Object.assign(state.pending, answer.choices);
    if (JSON.stringify(state.pending) !== before) await look({make: state.pending});
  }
  setInterval(() => { if (atWindows().length > 0) share().catch(() => {}); }, 500);

  // ---- The score over games ----

  const score = {games: 0, goals: {}, counted: ''};
  function showScore() {
    by('score').textContent = score.games === 0 ? '' :
      `${score.games} ${score.games === 1 ? 'game' : 'games'}: ` +
      Object.entries(score.goals).map(([role, goals]) => `${role} ${goals}`).join(', ');
    by('score-clear').hidden = score.games === 0;
  }
  // Counts a game that has just been played to its end, once.
  function count(answer) {
    if (!answer.over || answer.line.length === 0) return;
    const key = JSON.stringify(answer.line);
    if (key === score.counted) return;
    score.counted = key;
    ++score.games;
    for (const [role, goal] of Object.entries(answer.goals || {})) {
      if (typeof goal === 'number') score.goals[role] = (score.goals[role] || 0) + goal;
    }
    showScore();
  }
  by('score-clear').addEventListener('click', () => {
    score.games = 0; score.goals = {}; score.counted = '';
    showScore();
  });

  return {
    show(answer) { show(answer); share().catch(() => {}); },
    count,
    // Who may be moved by an opponent of the desk: empty for persons.
    opponent: (role) => (['', window_seat, 'hand', undefined].includes(state.seats[role]) ? '' : state.seats[role]),
    diceByHand: () => Object.values(state.seats).includes('hand'),
  };
}
