#include "support/board_styles.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <functional>
#include <map>
#include <optional>
#include <set>
#include <unordered_map>

#include "orchard/domains.hpp"
#include "orchard/game.hpp"
#include "orchard/playouts.hpp"
#include "support/rule_terms.hpp"

namespace orchard::testing {
namespace {

using Place = std::vector<Term>;

// The fluent of a board: the last argument is the content.
struct Board {
  std::string name;
  std::size_t arity = 0;
  std::set<Place> places;
  std::map<Term, std::size_t> at_start;  // how often a content is there
  std::vector<Term> contents;            // that the rules foresee

  bool is(const Term& fluent) const { return fluent.name() == name && fluent.arity() == arity; }
};

Place place_of(const Term& fluent) {
  Place place = fluent.arguments();
  place.pop_back();
  return place;
}

// The places of one fluent in a position; none if one of them has two contents.
std::optional<std::set<Place>> places_in(const Position& position, const Board& board) {
  std::set<Place> places;
  for (const Term& fluent : position.fluents()) {
    if (board.is(fluent) && !places.insert(place_of(fluent)).second) return std::nullopt;
  }
  return places;
}

// A fluent of two or more arguments with one content for each of several places, the same places in
// every position of some random games; of several the one with the most places.
std::optional<Board> board_of(const std::string& text) {
  const Game game = Game::from_text(text).value();
  std::map<std::pair<std::string, std::size_t>, Board> found;
  for (const Term& fluent : game.initial().fluents()) {
    if (fluent.arity() < 2) continue;
    Board& board = found[{fluent.name(), fluent.arity()}];
    board.name = fluent.name();
    board.arity = fluent.arity();
    ++board.at_start[fluent.arguments().back()];
  }
  std::optional<Board> best;
  for (auto& [name, board] : found) {
    const auto places = places_in(game.initial(), board);
    if (!places || places->size() < 3) continue;
    board.places = *places;
    bool stays = true;
    constexpr std::uint64_t games = 20;
    for (std::uint64_t g = 0; g < games && stays; ++g) {
      WalkOptions options;
      options.game = g;
      options.plies = 200;
      (void)random_walk(game, options, [&](const WalkStep& step) {
        stays = places_in(step.position, board) == places;
        return stays;
      });
    }
    if (stays && (!best || best->places.size() < places->size())) best = board;
  }
  if (!best) return std::nullopt;
  for (const ArgumentDomain& domain : argument_domains(game)) {
    if (domain.kind != ArgumentDomain::Kind::fluent || domain.name != best->name ||
        domain.arity != best->arity || domain.argument != best->arity) {
      continue;
    }
    for (const std::string& value : domain.values) {
      if (value.front() == '(') return std::nullopt;
      best->contents.push_back(Term::constant(value));
    }
  }
  return best->contents.size() < 2 ? std::nullopt : best;
}

// Rules that make any fluent whatever, or hand a fluent to a relation, cannot be rewritten so.
bool speaks_of_fluents(const Rules& rules) {
  bool speaks = false;
  const auto look = [&](const Term& fluent) -> std::optional<Term> {
    speaks = speaks || fluent.is_variable();
    return std::nullopt;
  };
  for (const Rule& rule : rules) {
    for (const Term& condition : rule.body) with_fluents(condition, look);
    const std::string& head = std::string(rule.head.name());
    if (head == "next" || head == "init" || head == "base") look(rule.head.arguments()[0]);
  }
  return speaks;
}

std::vector<Term> variables(std::size_t count) {
  std::vector<Term> result;
  for (std::size_t i = 0; i < count; ++i) {
    result.push_back(Term::constant("?" + std::string(1, static_cast<char>('p' + i)) + "_of"));
  }
  return result;
}

Term holds(const Term& fluent) {
  return Term::function("true", {fluent});
}

// Rewrites what is read of the board and what is made of it.
class Retold {
 public:
  Retold(Rules rules, Board board) : rules_(std::move(rules)), board_(std::move(board)) {}

  const Board& board() const { return board_; }
  std::string reader() const { return board_.name + "_reads"; }
  // `makes`: the rules in the place of one whose head is a fluent of the board.
  Rules run(const std::function<Rules(const Rule&)>& makes) const {
    Rules result;
    for (Rule rule : rules_) {
      for (Term& condition : rule.body) {
        condition = with_fluents(condition, [&](const Term& fluent) -> std::optional<Term> {
          if (!board_.is(fluent)) return std::nullopt;
          return made(reader(), fluent.arguments());
        });
      }
      const std::string& head = std::string(rule.head.name());
      if ((head == "next" || head == "init" || head == "base") &&
          board_.is(rule.head.arguments()[0])) {
        for (Rule& other : makes(rule)) result.push_back(std::move(other));
      } else {
        result.push_back(std::move(rule));
      }
    }
    return result;
  }

 private:
  Rules rules_;
  Board board_;
};

std::optional<Retold> retold(const std::string& text) {
  Rules rules = rules_of(text);
  if (speaks_of_fluents(rules)) return std::nullopt;
  auto board = board_of(text);
  if (!board) return std::nullopt;
  return Retold(std::move(rules), std::move(*board));
}

}  // namespace

std::string bare_not_told(const std::string& text) {
  const auto told = retold(text);
  if (!told) return {};
  const Board& board = told->board();
  const auto& [bare, often] =
      *std::ranges::max_element(board.at_start, {}, [](const auto& entry) { return entry.second; });
  if (often == 1) return {};  // nothing is bare
  Rules rules = told->run([&](const Rule& rule) -> Rules {
    const Term content = rule.head.arguments()[0].arguments().back();
    if (content == bare) return {};
    if (!content.is_variable()) return {rule};
    Rule other = rule;
    other.body.push_back(Term::function("distinct", {content, bare}));
    return {other};
  });
  std::vector<Term> all = variables(board.arity);
  const Term fluent = made(board.name, all);
  const Term content = all.back();
  all.pop_back();
  const Term place = made(board.name + "_place", all);
  const Term is_told = made(board.name + "_is_told", all);
  all.push_back(content);
  rules.push_back({made(told->reader(), all), {holds(fluent)}});
  all.back() = bare;
  rules.push_back({made(told->reader(), all), {place, Term::function("not", {is_told})}});
  all.back() = Term::constant("?_" + std::string(content.name().substr(1)));
  rules.push_back({is_told, {holds(made(board.name, all))}});
  for (const Place& known : board.places) rules.push_back({made(board.name + "_place", known), {}});
  return text_of(rules);
}

std::string places_as_index(const std::string& text) {
  const auto told = retold(text);
  if (!told || told->board().arity != 3) return {};
  const Board& board = told->board();
  const std::string index = board.name + "_index";
  const Term number = Term::constant("?index_of");
  Rules rules = told->run([&](const Rule& rule) -> Rules {
    const std::vector<Term> arguments = rule.head.arguments()[0].arguments();
    Rule other = rule;
    other.head =
        Term::function(std::string(rule.head.name()), {made(board.name, {number, arguments[2]})});
    other.body.push_back(made(index, {arguments[0], arguments[1], number}));
    return {other};
  });
  const std::vector<Term> all = variables(board.arity);
  rules.push_back(
      {made(told->reader(), all),
       {made(index, {all[0], all[1], number}), holds(made(board.name, {number, all[2]}))}});
  std::size_t count = 0;
  for (const Place& place : board.places) {
    rules.push_back(
        {made(index, {place[0], place[1], Term::constant(std::to_string(++count))}), {}});
  }
  return text_of(rules);
}

std::string contents_as_fluents(const std::string& text) {
  const auto told = retold(text);
  if (!told) return {};
  const Board& board = told->board();
  // Nobody makes a fluent of each number.
  if (std::ranges::any_of(board.contents,
                          [](const Term& term) { return term.number().has_value(); })) {
    return {};
  }
  const auto name_of = [&](const Term& content) {
    return board.name + "_of_" + std::string(content.name());
  };
  Rules rules = told->run([&](const Rule& rule) {
    const Term content = rule.head.arguments()[0].arguments().back();
    Rules result;
    for (const Term& known : board.contents) {
      if (!content.is_variable() && content != known) continue;
      Rule other = content.is_variable() ? substituted(rule, content, known) : rule;
      other.head = Term::function(std::string(rule.head.name()),
                                  {made(name_of(known), place_of(other.head.arguments()[0]))});
      result.push_back(other);
    }
    return result;
  });
  std::vector<Term> all = variables(board.arity);
  const Place place(all.begin(), all.end() - 1);
  for (const Term& known : board.contents) {
    all.back() = known;
    rules.push_back({made(told->reader(), all), {holds(made(name_of(known), place))}});
  }
  return text_of(rules);
}

namespace {

// How many plies the longest line has; none if a position is reached on lines of different lengths,
// or turns do not alternate.
std::optional<std::uint64_t> longest_alternating(const Game& game, const TurnFluent& turn) {
  constexpr std::size_t most = 20'000;
  std::unordered_map<Position, std::uint64_t> depth{{game.initial(), 0}};
  std::vector<Position> open{game.initial()};
  for (std::size_t at = 0; at < open.size(); ++at) {
    const Position position = open[at];
    const std::uint64_t here = depth.at(position);
    const Term& mover = here % 2 == 0 ? turn.first : turn.second;
    if (!position.holds(Term::function(turn.name, {mover}))) return std::nullopt;
    if (game.terminal(position)) continue;
    for (const Role& role : game.roles()) {
      const auto legal = game.legal(position, role);
      if (role.name() != mover.name()) {
        if (legal.size() != 1) return std::nullopt;
        continue;
      }
      for (const Move& move : legal) {
        const auto joint = game.joint_move(position, role, move);
        if (!joint) return std::nullopt;
        const Position next = game.next(position, *joint).value();
        const auto [known, is_new] = depth.try_emplace(next, here + 1);
        if (known->second != here + 1 || depth.size() > most) return std::nullopt;
        if (is_new) open.push_back(next);
      }
    }
  }
  return depth.at(open.back());
}

}  // namespace

std::string turn_by_plies(const std::string& text) {
  const Rules rules = rules_of(text);
  const auto turn = turn_fluent(rules);
  if (!turn || speaks_of_fluents(rules)) return {};
  const auto plies = longest_alternating(Game::from_text(text).value(), *turn);
  if (!plies) return {};
  const std::string reader = turn->name + "_by_plies";
  Rules result;
  bool declares = false;
  for (Rule rule : rules) {
    const std::string& head = std::string(rule.head.name());
    declares = declares || head == "base";
    if ((head == "next" || head == "init" || head == "base") &&
        turn->is(rule.head.arguments()[0])) {
      continue;
    }
    for (Term& condition : rule.body) {
      condition = with_fluents(condition, [&](const Term& fluent) -> std::optional<Term> {
        if (!turn->is(fluent)) return std::nullopt;
        return Term::function(reader, {fluent.arguments()[0]});
      });
    }
    result.push_back(std::move(rule));
  }
  const auto number = [](std::uint64_t n) { return Term::constant(std::to_string(n)); };
  const auto count = [](const Term& term) { return Term::function("plies_made", {term}); };
  const Term before = Term::constant("?before");
  const Term after = Term::constant("?after");
  result.push_back({Term::function("init", {count(number(0))}), {}});
  result.push_back({Term::function("next", {count(after)}),
                    {holds(count(before)), Term::function("one_ply_on", {before, after})}});
  result.push_back(
      {Term::function(reader, {Term::constant("?who")}),
       {holds(count(before)), Term::function("moves_after", {before, Term::constant("?who")})}});
  for (std::uint64_t n = 0; n <= *plies; ++n) {
    if (declares) result.push_back({Term::function("base", {count(number(n))}), {}});
    if (n < *plies) {
      result.push_back({Term::function("one_ply_on", {number(n), number(n + 1)}), {}});
    }
    result.push_back(
        {Term::function("moves_after", {number(n), n % 2 == 0 ? turn->first : turn->second}), {}});
  }
  return text_of(result);
}

}  // namespace orchard::testing
