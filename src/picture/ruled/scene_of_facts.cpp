#include "picture/ruled/scene_of_facts.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <set>
#include <utility>

#include "picture/ruled/chains.hpp"
#include "picture/scene/role_colours.hpp"
#include "picture/written/text.hpp"

namespace orchard::picture {
namespace {

constexpr std::size_t most_ruled_rows = 12;
constexpr int most_across_ring = 18;  // places of a ring beside each other, in text
constexpr std::uint32_t most_count = 999;
constexpr double comb = 0.866;  // between the rows of a comb, for cells of height 1

// A term as words: (words ida plays the crow), or any other: (spades left).
std::string words_of(const Term& term) {
  std::string text;
  for (const Term::Symbol& symbol : term.symbols()) {
    if (symbol.name == "words" && symbol.arity > 0) continue;
    text += fmt::format("{}{}", text.empty() ? "" : " ", spoken(symbol.name));
  }
  return text;
}

std::string capital(std::string text) {
  if (!text.empty() && text[0] >= 'a' && text[0] <= 'z') {
    text[0] = static_cast<char>(text[0] - 'a' + 'A');
  }
  return text;
}

class Maker {
 public:
  Maker(const Game& game, const std::vector<Term>& facts) : game_(game), facts_(facts) {
    result_.scene.roles = game.roles().size();
    result_.scene.role_colours = role_colours(game);
  }

  SceneOfFacts run();

 private:
  using Arguments = std::vector<Term>;
  std::vector<Arguments> all(std::string_view name) const {
    std::vector<Arguments> result;
    for (const Term& fact : facts_) {
      if (fact.name() == name) result.push_back(fact.arguments());
    }
    return result;
  }
  bool has(std::string_view name) const {
    return std::ranges::any_of(facts_, [&](const Term& fact) { return fact.name() == name; });
  }

  void lay_out_squares(Board& board);
  void lay_out_ring(Board& board);
  void lay_out_spots(Board& board);
  void lay_out_chains(Board& board);
  void fill(Board& board);
  void add_links(Board& board);
  void add_legend(Board& board);
  void add_sides();
  void tell_what_is_off();
  void add_spot(Board& board, Spot spot);
  Spot* spot(Board& board, const Term& place) {
    const auto found = result_.spots.find(place.to_string());
    return found == result_.spots.end() ? nullptr : &board.spots[found->second];
  }
  Tone tone(const Term& term) const;
  Piece piece(const Term& shape, const Term& tone_term) const;
  std::vector<Term> in_order(const std::set<Term>& terms) const;

  const Game& game_;
  const std::vector<Term>& facts_;
  SceneOfFacts result_;
  std::vector<const Term*> off_;  // drawing facts whose place is not on the board
};

// As `order` says, then numbers by value and names by their letters.
std::vector<Term> Maker::in_order(const std::set<Term>& terms) const {
  std::map<Term, Term> places;
  for (const Arguments& next : all("order")) places.emplace(next[0], next[1]);
  std::vector<Term> result(terms.begin(), terms.end());
  std::ranges::stable_sort(result, [&](const Term& a, const Term& b) {
    const auto first = places.find(a);
    const auto second = places.find(b);
    return first != places.end() && second != places.end() && first->second < second->second;
  });
  return result;
}

Tone Maker::tone(const Term& term) const {
  if (const auto role = game_.role(term.to_string())) return tone_of_role(role->index());
  return tone_named(term.to_string()).value_or(Tone::ink);
}

Piece Maker::piece(const Term& shape, const Term& tone_term) const {
  Piece result;
  result.tone = tone(tone_term);
  Term inner = shape;
  while (inner.arity() == 2 && (inner.name() == "marked" || inner.name() == "pointing")) {
    const Arguments arguments = inner.arguments();
    if (inner.name() == "marked") {
      result.letters = words_of(arguments[1]);
      inner = Term(arguments[0]);
      continue;
    }
    const std::string way = arguments[0].to_string();
    result.pointing = way == "up"      ? Direction::up
                      : way == "right" ? Direction::right
                      : way == "down"  ? Direction::down
                      : way == "left"  ? Direction::left
                                       : Direction::none;
    inner = Term(arguments[1]);
  }
  if (inner.name() == "pair" && inner.arity() == 2) {
    result.shape = Shape::pair;
    result.letters = words_of(inner.arguments()[0]);
    result.more_letters = words_of(inner.arguments()[1]);
    return result;
  }
  if (inner.name() == "letter" && inner.arity() == 1) {
    result.shape = Shape::disc;
    result.letters = words_of(inner.arguments()[0]);
    return result;
  }
  if (inner.name() == "word" && inner.arity() == 1) {
    result.letters = words_of(inner.arguments()[0]);
    return result;
  }
  if (const auto known = shape_named(inner.name())) {
    result.shape = *known;
  } else {
    result.letters = words_of(inner);
  }
  return result;
}

void Maker::add_spot(Board& board, Spot next) {
  const auto [known, is_new] = result_.spots.try_emplace(next.name, board.spots.size());
  if (is_new) board.spots.push_back(std::move(next));
}

void Maker::lay_out_squares(Board& board) {
  std::set<Term> row_terms;
  std::set<Term> column_terms;
  std::set<Term> shifted;  // rows
  std::set<Term> lowered;  // columns
  const auto squares = all("square");
  for (const Arguments& square : squares) {
    row_terms.insert(square[0]);
    column_terms.insert(square[1]);
  }
  for (const Arguments& shift : all("shift_row")) shifted.insert(shift[0]);
  for (const Arguments& shift : all("shift_column")) lowered.insert(shift[0]);
  std::vector<Term> rows = in_order(row_terms);
  std::vector<Term> columns = in_order(column_terms);
  if (has("rows")) std::ranges::reverse(rows);
  if (has("columns")) std::ranges::reverse(columns);
  // Shifted rows or columns are cells of a comb, with six neighbours each.
  const double row_height = shifted.empty() ? 1 : comb;
  const double column_width = lowered.empty() ? 1 : comb;
  const Outline outline = !shifted.empty()   ? Outline::pointed_hexagon
                          : !lowered.empty() ? Outline::flat_hexagon
                                             : Outline::square;
  std::map<Term, int> row_at;
  std::map<Term, int> column_at;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    row_at.emplace(rows[i], static_cast<int>(i));
    board.rows.push_back(
        {words_of(rows[i]), (static_cast<double>(i) + 0.5) * row_height, 2 * static_cast<int>(i)});
  }
  for (std::size_t i = 0; i < columns.size(); ++i) {
    column_at.emplace(columns[i], static_cast<int>(i));
    board.columns.push_back({words_of(columns[i]), (static_cast<double>(i) + 0.5) * column_width,
                             2 * static_cast<int>(i)});
  }
  board.ruled = rows.size() <= most_ruled_rows || outline != Outline::square;
  const bool one_column = columns.size() == 1 && rows.size() > 1;
  if (rows.size() == 1) board.rows.clear();
  if (one_column) board.columns.clear();
  for (const Arguments& square : squares) {
    Spot next;
    next.name = Term::function("at", square).to_string();
    // A name that all squares share is not typed.
    if (rows.size() > 1) next.row = words_of(square[0]);
    next.column = words_of(square[1]);
    if (one_column) next.column = std::exchange(next.row, {});
    next.raster_down = 2 * row_at.at(square[0]) + (lowered.contains(square[1]) ? 1 : 0);
    next.raster_half = 2 * column_at.at(square[1]) + (shifted.contains(square[0]) ? 1 : 0);
    next.x = (next.raster_half / 2.0 + 0.5) * column_width;
    next.y = (next.raster_down / 2.0 + 0.5) * row_height;
    next.outline = outline;
    add_spot(board, std::move(next));
  }
}

// In text a ring runs round a rectangle, clockwise from its left upper corner.
void Maker::lay_out_ring(Board& board) {
  for (const Arguments& place : all("on_ring")) {
    const auto number = place[1].number();
    const auto of = place[2].number();
    if (!number || !of || *of < 1 || *of > 10'000) continue;
    const int count = static_cast<int>(*of);
    const int at = static_cast<int>(((*number % count) + count) % count);
    const int half_around = (count + 1) / 2 + 2;  // rows and columns of the rectangle
    const int wider = half_around > 14 ? half_around / 8 : 0;
    const int across = std::clamp(half_around / 2 + wider, 2, most_across_ring);
    const int down = std::max(2, half_around - across);
    Spot next;
    next.name = place[0].to_string();
    next.column = words_of(place[0]);
    next.outline = Outline::round;
    int row = 0;
    int column = at;
    if (at >= across) {
      row = at - across + 1;
      column = across - 1;
      if (row > down - 1) {
        column -= row - (down - 1);
        row = down - 1;
        if (column < 0) {
          row += column;
          column = 0;
        }
      }
    }
    next.raster_down = 2 * row;
    next.raster_half = 2 * column;
    const double radius = std::max(1.6, count * 1.25 / (2 * std::numbers::pi));
    const double angle = 2 * std::numbers::pi * at / count - std::numbers::pi / 2;
    next.x = radius * (1 + std::cos(angle)) + 0.6;
    next.y = radius * (1 + std::sin(angle)) + 0.6;
    add_spot(board, std::move(next));
  }
}

void Maker::lay_out_spots(Board& board) {
  const auto spots = all("spot");
  std::set<std::int64_t> xs;
  std::set<std::int64_t> ys;
  for (const Arguments& next : spots) {
    if (next[1].number() && next[2].number()) {
      xs.insert(*next[1].number());
      ys.insert(*next[2].number());
    }
  }
  for (const Arguments& place : spots) {
    const auto x = place[1].number();
    const auto y = place[2].number();
    if (!x || !y) continue;
    Spot next;
    next.name = place[0].to_string();
    next.column = words_of(place[0]);
    next.outline = Outline::round;
    next.raster_half = 2 * static_cast<int>(std::distance(xs.begin(), xs.find(*x)));
    next.raster_down = 2 * static_cast<int>(std::distance(ys.begin(), ys.find(*y)));
    next.x = 1.3 * static_cast<double>(*x - *xs.begin()) + 0.6;
    next.y = 1.3 * static_cast<double>(*y - *ys.begin()) + 0.6;
    add_spot(board, std::move(next));
  }
}

void Maker::lay_out_chains(Board& board) {
  std::vector<ChainLink> links;
  std::vector<Term> ends;
  for (const Term& fact : facts_) {
    const Arguments arguments = fact.arguments();
    if (fact.name() == "chain" && fact.arity() == 4) {
      links.push_back({arguments[0], arguments[1], piece(arguments[2], arguments[3])});
    }
    for (const Term& argument : arguments) {
      if (argument.name() == "end" && argument.arity() == 2) ends.push_back(argument);
    }
  }
  picture::lay_out_chains(std::move(links), ends, board, result_.spots);
}

void Maker::fill(Board& board) {
  for (const Term& fact : facts_) {
    if (fact.arity() == 0) continue;
    const Arguments arguments = fact.arguments();
    Spot* at = spot(board, arguments[0]);
    const std::string& name = fact.name();
    if (at == nullptr) {
      constexpr std::array at_places = {"ground", "label", "hidden", "mark", "piece", "pieces"};
      if (std::ranges::find(at_places, name) != at_places.end()) off_.push_back(&fact);
      continue;
    }
    if (name == "ground") at->ground = tone(arguments[1]);
    if (name == "label") at->label = words_of(arguments[1]);
    if (name == "hidden") at->hidden = true;
    if (name == "mark") at->marked = true;
    if (name == "piece") at->pieces.push_back(piece(arguments[1], arguments[2]));
    if (name == "pieces") {
      const auto count = arguments[3].number();
      if (!count || *count <= 0) continue;
      at->pieces.push_back(piece(arguments[1], arguments[2]));
      at->pieces.back().count =
          static_cast<std::uint32_t>(std::min<std::int64_t>(*count, most_count));
    }
  }
}

void Maker::add_links(Board& board) {
  for (const Term& fact : facts_) {
    const std::string& name = fact.name();
    const bool edge = name == "edge" && fact.arity() == 2;
    const bool stroke = (name == "line" || name == "arrow") && fact.arity() == 3;
    const bool piece_on_two = name == "long_piece" && fact.arity() == 4;
    if (!edge && !stroke && !piece_on_two) continue;
    const Arguments arguments = fact.arguments();
    const auto from = result_.spots.find(arguments[0].to_string());
    const auto to = result_.spots.find(arguments[1].to_string());
    if (from == result_.spots.end() || to == result_.spots.end()) {
      off_.push_back(&fact);
      continue;
    }
    if (piece_on_two) {
      board.long_pieces.push_back({from->second, to->second, piece(arguments[2], arguments[3])});
      continue;
    }
    const Link::Kind kind = edge              ? Link::Kind::edge
                            : name == "arrow" ? Link::Kind::arrow
                                              : Link::Kind::line;
    // Said in both directions, an edge is one all the same.
    const bool known =
        edge && std::ranges::any_of(board.links, [&](const Link& link) {
          return link.kind == kind && link.from == to->second && link.to == from->second;
        });
    if (!known) {
      board.links.push_back(
          {kind, from->second, to->second, stroke ? tone(arguments[2]) : Tone::quiet});
    }
  }
}

void Maker::add_legend(Board& board) {
  for (const Arguments& next : all("meaning")) {
    Piece entry = piece(next[0], next[1]);
    entry.meaning = words_of(next[2]);
    board.legend.push_back(std::move(entry));
  }
}

void Maker::add_sides() {
  Scene& scene = result_.scene;
  for (const Arguments& next : all("tray")) {
    scene.trays.push_back({words_of(next[0]), tone(next[1]), {}});
  }
  std::map<std::string, std::vector<std::pair<Term, Piece>>> in_trays;
  for (const Arguments& next : all("in_tray")) {
    const std::string tray = words_of(next[0]);
    in_trays[tray].emplace_back(next[1], piece(next[2], next[3]));
    if (std::ranges::find(scene.trays, tray, &Tray::name) == scene.trays.end()) {
      scene.trays.push_back({tray, Tone::none, {}});
    }
  }
  for (Tray& tray : scene.trays) {
    auto& pieces = in_trays[tray.name];
    std::ranges::stable_sort(pieces, {}, &std::pair<Term, Piece>::first);
    for (auto& [order, next] : pieces) tray.pieces.push_back(std::move(next));
  }
  for (const Term& fact : facts_) {
    const Arguments arguments = fact.arguments();
    if (fact.name() == "counter" && fact.arity() == 3) {
      scene.counters.push_back(
          {words_of(arguments[0]), words_of(arguments[1]), {}, {}, tone(arguments[2])});
    }
    if (fact.name() == "gauge" && fact.arity() == 4) {
      Counter next{words_of(arguments[0]), words_of(arguments[1]), {}, {}, tone(arguments[3])};
      const auto number = arguments[1].number();
      const auto most = arguments[2].number();
      if (number && most && *number >= 0 && *most > 0 && *number <= *most && *most <= 1000) {
        next.number = static_cast<std::uint32_t>(*number);
        next.most = static_cast<std::uint32_t>(*most);
      }
      scene.counters.push_back(std::move(next));
    }
    if (fact.name() == "caption" && fact.arity() == 1) {
      scene.captions.push_back(capital(words_of(arguments[0])));
    }
    if (fact.name() == "choice" && fact.arity() == 3) {
      result_.choices.push_back({arguments[0].to_string(), arguments[1], arguments[2].to_string()});
    }
  }
}

// What stands nowhere is told in words: a drawing that leaves it out in silence misleads.
void Maker::tell_what_is_off() {
  if (off_.empty()) return;
  constexpr std::size_t most = 4;
  std::string text = "Drawn at places that are not on the board:";
  for (std::size_t i = 0; i < std::min(most, off_.size()); ++i) text += " " + off_[i]->to_string();
  if (off_.size() > most) text += fmt::format(" and {} more", off_.size() - most);
  result_.scene.captions.push_back(std::move(text));
}

SceneOfFacts Maker::run() {
  if (has("square") || has("on_ring") || has("spot") || has("chain")) {
    Board& board = result_.scene.boards.emplace_back();
    lay_out_squares(board);
    lay_out_ring(board);
    lay_out_spots(board);
    lay_out_chains(board);
    fill(board);
    add_links(board);
    add_legend(board);
  }
  add_sides();
  tell_what_is_off();
  return std::move(result_);
}

}  // namespace

SceneOfFacts scene_of_facts(const Game& game, const std::vector<Term>& facts) {
  return Maker(game, facts).run();
}

std::string glyphs_of(const Game& game, const std::vector<Term>& facts) {
  std::string place = places_of(facts).front();
  // As if the place were a square, so that it is written as it will be.
  std::vector<Term> with_place = facts;
  const Term at = Term::parse(place).value();
  with_place.push_back(Term::function("spot", {at, Term::constant("0"), Term::constant("0")}));
  const SceneOfFacts made = scene_of_facts(game, with_place);
  const Spot& spot = made.scene.boards.front().spots.front();
  std::string text = spot.hidden ? "▒" : "";
  for (const Piece& piece : spot.pieces) {
    const bool gap = !text.empty() && piece.letters.size() > 1;
    text += (gap ? " " : "") + glyph_of(piece, true, made.scene.roles);
  }
  return text;
}

std::vector<std::string> places_of(const std::vector<Term>& facts) {
  std::vector<std::string> places;
  for (const Term& fact : facts) {
    const std::string& name = fact.name();
    if (name != "piece" && name != "pieces" && name != "ground" && name != "hidden") continue;
    const std::string place = fact.arguments().front().to_string();
    if (std::ranges::find(places, place) == places.end()) places.push_back(place);
  }
  return places;
}

}  // namespace orchard::picture
