// What is asked beside playing: checks, why, relations, formulas, random games, sizes.

// `desk` is what the page shares: its state, text, board, and the functions that ask and show.
export function askingOf(desk) {
  const {state, text, board, ask, asked, by, made, goAlong, look, listMoves, trouble} = desk;
  const page = Math.random().toString(36).slice(2);  // tells windows apart

  // ---- Work in the background ----

  async function work(what, request, show) {
    const begun = await ask('begin', asked({what, page, ...request}));
    if (begun.error) { show({error: begun.error}, true); return; }
    for (;;) {
      await new Promise((resolve) => setTimeout(resolve, 200));
      const answer = await ask('work', {page, what});
      if (answer.state === 'running') show(answer.progress, false);
      else { show(answer.result || {}, true); return; }
    }
  }

  // A line as the desk writes it, to be looked at on the board.
  function lineButton(line) {
    return made('button', {onclick: () => goAlong(line)}, 'show the line');
  }

  function check() {
    by('check-state').textContent = 'running …';
    work('check', {seconds: Number(by('check-seconds').value) || 10, claims: text.text('claims')}, (answer, finished) => {
      if (!finished) { by('check-state').textContent = `running … ${answer.done || 0} positions`; return; }
      if (answer.error || answer.findings) {
        by('check-state').textContent = answer.error || answer.findings.map((one) => one.message).join('; ');
        return;
      }
      const all = [...(answer.questions || []), ...(answer.claims || [])];
      by('check-state').textContent = answer.ended ? 'stopped: ' + answer.ended
        : `${answer.positions} positions${answer.complete ? ', which are all' : ''}` +
          (answer.first_plies ? `; the rules have no circuit: this is about the first ${answer.first_plies} plies` : '');
      by('answers').tBodies[0].replaceChildren(...all.map((one) => made('tr', {},
        made('td', {}, one.id || one.name || ''), made('td', {class: one.verdict}, one.verdict),
        made('td', {}, typeof one.evidence === 'string' ? one.evidence : (one.text || ''), ' ',
             ...(one.line ? [lineButton(one.line)] : [])))));
    }).catch(trouble);
  }

  // ---- Asking ----

  async function why(question) {
    by('because').textContent = '…';
    const answer = await ask('why', asked({question}));
    by('because').textContent = answer.error || answer.text;
    if (answer.lines) text.light('rules', answer.lines);
  }

  let relationsShown = '';
  function showRelations(answer) {
    const key = answer.relations.join(' ');
    if (key === relationsShown) return;
    relationsShown = key;
    const chosen = by('relation').value;
    by('relation').replaceChildren(made('option', {value: ''}, 'nothing'),
      ...answer.relations.map((name) => made('option', {value: name}, name.replace('/', ' / '))));
    by('relation').value = answer.relations.includes(chosen) ? chosen : '';
  }
  async function layRelation() {
    const name = by('relation').value;
    if (name === '') { board.lay(null); by('rows').textContent = ''; return; }
    const answer = await ask('relation', asked({name}));
    if (answer.error) { by('rows').textContent = answer.error; return; }
    board.lay(answer.rows);
    const plain = name.split('/')[0];
    by('rows').textContent = answer.rows.length === 0 ? 'It holds of nothing.'
      : answer.rows.slice(0, 60).map((row) => row.length > 0 ? `(${plain} ${row.join(' ')})` : plain).join('  ') +
        (answer.rows.length > 60 ? `  … ${answer.rows.length} in all` : '');
  }

  let sizesShown = '';
  function showSizes(answer) {
    const key = JSON.stringify(answer.sizes);
    if (key === sizesShown) return;
    sizesShown = key;
    by('sizes').replaceChildren(...(answer.sizes.length === 0 ? ['The description has no sizes (#let NAME NUMBER).'] : answer.sizes.map((size) =>
      made('label', {}, size.name + ' ', made('input', {type: 'number', value: size.value, onchange: (event) => {
        state.sizes[size.name] = Number(event.target.value);
        state.plies = []; state.at = 0;
        look().catch(trouble);
      }}), ' '))));
  }

  function find(formula) {
    by('found').textContent = 'looking …';
    work('find', {formula, seconds: 20}, (answer, finished) => {
      if (!finished) { by('found').textContent = `looking … ${answer.done || 0} positions`; return; }
      if (answer.found) {
        by('found').replaceChildren(`after ${answer.line.length} plies: `, lineButton(answer.line));
        goAlong(answer.line);
      } else {
        by('found').textContent = answer.error ||
          ((answer.unfit || []).length > 0 ? 'Nothing that the rules derive matches ' + answer.unfit.join(', ') + '.'
            : answer.proved || answer.complete ? 'It holds in no reachable position.' : `Not met in ${answer.positions} positions; there may be more.`);
      }
    }).catch(trouble);
  }

  function games() {
    by('games').textContent = 'playing …';
    work('games', {seconds: 2}, (answer, finished) => {
      if (!finished) { by('games').textContent = `playing … ${answer.done || 0}`; return; }
      if (answer.error) { by('games').textContent = answer.error; return; }
      const bars = (rows) => {
        const most = Math.max(1, ...rows.map(([, count]) => count));
        return made('div', {class: 'bars'}, ...rows.map(([words, count]) => {
          const bar = made('i', {});
          bar.style.width = Math.round(180 * count / most) + 'px';
          return made('div', {}, bar, `${words}: ${count}`);
        }));
      };
      const lengths = (answer.length || {}).histogram || [];
      // Of very many lengths, some together.
      const together = Math.ceil(lengths.length / 24);
      const grouped = [];
      for (let at = 0; at < lengths.length; at += together) {
        const some = lengths.slice(at, at + together);
        const plies = some.length > 1 ? `${some[0].plies}–${some[some.length - 1].plies}` : some[0].plies;
        grouped.push([plies + ' plies', some.reduce((sum, one) => sum + one.games, 0)]);
      }
      by('games').replaceChildren(
        made('p', {}, `${answer.playouts} games, ${Math.round((answer.length || {mean: 0}).mean * 10) / 10} plies on average`),
        bars((answer.outcomes || []).slice(0, 12).map((one) =>
          [Object.entries(one.goals || {}).map(([role, goal]) => role + ' ' + goal).join(', '), one.count])),
        made('p', {}, 'How long they were:'), bars(grouped));
    }).catch(trouble);
  }

  function values() {
    by('games').textContent = 'working out …';
    work('values', {seconds: 10}, (answer, finished) => {
      if (!finished) { by('games').textContent = `working out … ${answer.done || 0} positions`; return; }
      if (!answer.values) { by('games').textContent = answer.error || answer.unsolved || answer.ended || ''; return; }
      state.values = new Map(answer.values.map((one) => [one.role + ' ' + one.move, one.value]));
      by('games').textContent = 'Places and moves show what each is worth to whoever makes it, under best play. ' + (answer.remark || '');
      listMoves(state.seen.moves);
      board.tell(new Map(state.seen.moves.map((move) => [move.number, state.values.get(move.role + ' ' + move.move)])
        .filter(([, value]) => value !== undefined)));
    }).catch(trouble);
  }

  by('check-begin').addEventListener('click', check);
  by('check-stop').addEventListener('click', () => ask('stop', {page, what: 'check'}).catch(trouble));
  by('why-form').addEventListener('submit', (event) => { event.preventDefault(); why(by('question').value).catch(trouble); });
  by('find-form').addEventListener('submit', (event) => { event.preventDefault(); find(by('formula').value); });
  by('relation').addEventListener('change', () => layRelation().catch(trouble));
  by('games-begin').addEventListener('click', games);
  by('values-begin').addEventListener('click', values);

  return {
    // With every new look: what may be asked of the text as it is now.
    show(answer) {
      showRelations(answer);
      showSizes(answer);
      layRelation().catch(trouble);
    },
  };
}
