// The board: the picture that the desk draws, with places to click.
//
// A picture is put into a shadow root, so that its style sheet reaches nothing else. A move fits
// places if their names stand in it, one behind the other, or if the picture marks it there.

export class Board {
  // `choose(moves)`: one move was chosen, or several fit; `refuse(places)`: none does.
  constructor(host, {choose, refuse}) {
    this.host = host;
    this.root = host.attachShadow({mode: 'open'});
    this.choose = choose;
    this.refuse = refuse;
    this.moves = [];
    this.chosen = [];
    this.overlay = null;
    host.addEventListener('keydown', (event) => this.key(event));
  }

  draw(svg, moves) {
    this.moves = moves;
    this.chosen = [];
    const text = new DOMParser().parseFromString(svg, 'image/svg+xml');
    const picture = document.importNode(text.documentElement, true);
    picture.setAttribute('style', 'max-width:100%;max-height:100%;height:auto');
    picture.setAttribute('role', 'group');
    const style = document.createElement('style');
    style.textContent = `
      :host{overflow:auto}
      .place{cursor:pointer;fill:currentColor;stroke:none}
      .place:hover{fill-opacity:.08 !important}
      .place:focus{outline:none;stroke:#7b3f9b;stroke-width:3}
      .place.chosen{stroke:#7b3f9b;stroke-width:4;stroke-dasharray:none}
      .place.target{stroke:#7b3f9b;stroke-width:3;stroke-dasharray:4 4}
      .worth-label{font-size:13px;font-weight:bold;text-anchor:middle;paint-order:stroke;stroke:#fff;stroke-width:3px;
                   fill:#2c6e3f;pointer-events:none}
      .laid-label{font-size:12px;font-weight:bold;text-anchor:middle;paint-order:stroke;stroke:#fff;stroke-width:3px;
                  fill:#2b2620;pointer-events:none}
      .place.laid{fill:#e0a000;fill-opacity:.14 !important;stroke:#c98a00;stroke-width:2.5}`;
    this.root.replaceChildren(style, picture);
    this.places = [...this.root.querySelectorAll('.place')];
    for (const place of this.places) place.addEventListener('click', () => this.click(place));
    if (this.places.length > 0) this.places[0].setAttribute('tabindex', '0');
    this.lay(this.overlay);
  }

  words(place) { return place.dataset.words.split(' ').filter((word) => word !== ''); }

  // Whether a move names a place.
  names(move, place) {
    const words = this.words(place);
    for (let at = 1; at + words.length <= move.words.length; ++at) {
      if (words.every((word, i) => move.words[at + i] === word)) return true;
    }
    return false;
  }
  fits(move, place) {
    return place.dataset.moves.split(' ').includes(String(move.number)) || this.names(move, place);
  }

  click(place) {
    if (this.chosen.includes(place)) {
      this.mark([]);
      return;
    }
    let chosen = [...this.chosen, place];
    let fitting = this.moves.filter((move) => chosen.every((one) => this.fits(move, one)));
    if (fitting.length === 0 && this.chosen.length > 0) {
      // Not a target of what was chosen first: perhaps another beginning.
      const alone = this.moves.filter((move) => this.fits(move, place));
      if (alone.length > 0) {
        chosen = [place];
        fitting = alone;
      }
    }
    if (fitting.length === 0) {
      this.refuse(chosen.map((one) => one.dataset.words));
      this.mark(chosen.length === 1 ? chosen : []);
      return;
    }
    if (fitting.length > 1) this.mark(chosen, fitting);
    this.choose(fitting);
  }

  mark(chosen, fitting = []) {
    this.chosen = chosen;
    for (const place of this.places) {
      place.classList.toggle('chosen', chosen.includes(place));
      place.classList.toggle('target', chosen.length > 0 && !chosen.includes(place) &&
                                           fitting.some((move) => this.names(move, place)));
    }
  }

  // Writes what moves are worth where they are made; of several at a place, the most. `worth`: by number.
  tell(worth) {
    for (const label of this.root.querySelectorAll('.worth-label')) label.remove();
    for (const place of this.places || []) {
      const values = place.dataset.moves.split(' ').map(Number).filter((number) => worth.has(number)).map((number) => worth.get(number));
      if (values.length === 0) continue;
      const box = place.getBBox();
      const label = document.createElementNS('http://www.w3.org/2000/svg', 'text');
      label.setAttribute('class', 'worth-label');
      label.setAttribute('x', box.x + box.width / 2);
      label.setAttribute('y', box.y + box.height - 4);
      label.textContent = String(Math.round(Math.max(...values) * 10) / 10);
      place.after(label);
    }
  }

  // Lays rows of a relation over the places that they name, with what else they say; null takes them away. Where
  // in a row the place stands is found from all of them: there they name the most different places.
  lay(rows) {
    this.overlay = rows;
    for (const label of this.root.querySelectorAll('.laid-label')) label.remove();
    const named = new Map();
    for (const place of this.places || []) {
      place.classList.remove('laid');
      named.set(place.dataset.words, place);
    }
    if (rows === null || rows.length === 0 || named.size === 0) return;
    const size = this.words(this.places[0]).length;
    const placesAt = (at) => new Set(rows.map((row) => row.slice(at, at + size).join(' ')).filter((name) => named.has(name)));
    let best = 0;
    for (let at = 1; at + size <= Math.max(...rows.map((row) => row.length)); ++at) {
      if (placesAt(at).size > placesAt(best).size) best = at;
    }
    const rest = new Map();
    for (const row of rows) {
      const name = row.slice(best, best + size).join(' ');
      if (!named.has(name)) continue;
      const more = [...row.slice(0, best), ...row.slice(best + size)].join(' ');
      rest.set(name, [...(rest.get(name) || []), ...(more === '' ? [] : [more])]);
    }
    for (const [name, more] of rest) {
      const place = named.get(name);
      place.classList.add('laid');
      if (more.length === 0) continue;
      const box = place.getBBox();
      const label = document.createElementNS('http://www.w3.org/2000/svg', 'text');
      label.setAttribute('class', 'laid-label');
      label.setAttribute('x', box.x + box.width / 2);
      label.setAttribute('y', box.y + 13);
      label.textContent = more.length > 2 ? more.length + '×' : more.join(', ');
      place.after(label);
    }
  }

  // From place to place: the nearest one in the direction of an arrow key.
  key(event) {
    const way = {ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1]}[event.key];
    const here = this.root.activeElement;
    if (event.altKey || event.ctrlKey) return;
    if (event.key === 'Escape') this.mark([]);
    if ((event.key === 'Enter' || event.key === ' ') && here && here.classList.contains('place')) {
      event.preventDefault();
      this.click(here);
    }
    if (!way || this.places.length === 0) return;
    event.preventDefault();
    if (!here || !here.classList.contains('place')) {
      this.places[0].focus();
      return;
    }
    const middle = (place) => {
      const box = place.getBoundingClientRect();
      return [box.x + box.width / 2, box.y + box.height / 2];
    };
    const [x, y] = middle(here);
    let best = null;
    let least = Infinity;
    for (const place of this.places) {
      const [px, py] = middle(place);
      const along = (px - x) * way[0] + (py - y) * way[1];
      const across = Math.abs((px - x) * way[1]) + Math.abs((py - y) * way[0]);
      if (along < 4) continue;
      const far = along + 3 * across;
      if (far < least) { least = far; best = place; }
    }
    if (best) {
      here.setAttribute('tabindex', '-1');
      best.setAttribute('tabindex', '0');
      best.focus();
    }
  }
}
