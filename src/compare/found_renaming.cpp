// Which move of one game is which of another: from how play goes, not from names.
//
// The first positions of both games are explored, and positions and moves are coloured by what is
// seen: a position by its depth, end, goals and the colours of what leads on from it; a move by the
// colours of where it is made and where it leads. That is refined until nothing changes. Where
// several moves still look alike, as on a board that can be turned, one is fixed and the rest
// follows; a choice that leads to a contradiction is taken back. Source: the refinement of McKay
// and Piperno, "Practical graph isomorphism, II" (2014), on the graph of play.
#include <absl/container/flat_hash_map.h>
#include <absl/hash/hash.h>
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <numeric>
#include <set>

#include "base/interruption.hpp"
#include "orchard/compare.hpp"

namespace orchard {
namespace {

using Colour = std::uint64_t;

Colour mixed(std::initializer_list<Colour> parts) {
  // Stable from run to run, so that the same renaming is found.
  Colour hash = 0x9E3779B97F4A7C15u;
  for (const Colour part : parts) {
    hash ^= part + 0x9E3779B97F4A7C15u + (hash << 6) + (hash >> 2);
    hash *= 0xBF58476D1CE4E5B9u;
    hash ^= hash >> 31;
  }
  return hash;
}

// The first positions of a game, and the steps between them; roles in the order of the first game.
struct Explored {
  struct Step {
    std::size_t from = 0;
    std::size_t to = 0;
    std::vector<std::size_t> moves;  // a number for each role
  };
  std::vector<Colour> positions;         // what is seen of each
  std::vector<std::vector<Term>> moves;  // by role
  std::vector<Step> steps;
};

Explored explored(const Game& game, const std::vector<Role>& roles, std::size_t most) {
  Explored result;
  result.moves.resize(roles.size());
  std::vector<absl::flat_hash_map<std::string, std::size_t>> numbers(roles.size());
  std::vector<Position> positions;
  std::vector<std::uint64_t> depths;
  absl::flat_hash_map<std::string, std::size_t> known;
  const auto add = [&](const Position& position, std::uint64_t depth) {
    const auto [at, is_new] = known.try_emplace(position.to_string(), positions.size());
    if (!is_new) return at->second;
    positions.push_back(position);
    depths.push_back(depth);
    Colour seen = mixed({depth, game.terminal(position) ? 1u : 0u});
    for (const Role& role : roles) {
      const auto goal = game.terminal(position) ? game.goal(position, role) : std::nullopt;
      const std::size_t legal = game.terminal(position) ? 0 : game.legal(position, role).size();
      seen = mixed({seen, goal ? static_cast<Colour>(*goal) + 1 : 0, legal});
    }
    result.positions.push_back(seen);
    return at->second;
  };
  add(game.initial(), 0);
  for (std::size_t at = 0; at < positions.size(); ++at) {
    end_if_interrupted();
    // Whole depths only: within one, the order is a matter of names.
    const bool begins_depth = at == 0 || depths[at] != depths[at - 1];
    if (begins_depth && positions.size() >= most) break;
    const Position position = positions[at];
    if (game.terminal(position)) continue;
    std::vector<std::vector<Move>> legal;
    for (const Role& role : roles) legal.push_back(game.legal(position, role));
    if (std::ranges::any_of(legal, [](const auto& of) { return of.empty(); })) continue;
    std::vector<std::size_t> choice(roles.size(), 0);
    for (std::size_t role = 0; role < roles.size();) {
      std::vector<Move> joint(game.roles().size(), legal[0][0]);
      Explored::Step step{at, 0, {}};
      for (std::size_t r = 0; r < roles.size(); ++r) {
        const Move& move = legal[r][choice[r]];
        joint[roles[r].index()] = move;
        const auto [number, is_new] =
            numbers[r].try_emplace(move.to_string(), result.moves[r].size());
        if (is_new) result.moves[r].push_back(move.term());
        step.moves.push_back(number->second);
      }
      const auto next = game.next(position, JointMove(std::move(joint)));
      if (next) {
        step.to = add(*next, depths[at] + 1);
        result.steps.push_back(std::move(step));
      }
      for (role = 0; role < roles.size() && ++choice[role] == legal[role].size(); ++role) {
        choice[role] = 0;
      }
    }
  }
  return result;
}

struct Colours {
  std::vector<Colour> positions;
  std::vector<std::vector<Colour>> moves;  // by role
};

Colours first_colours(const Explored& explored) {
  Colours colours{explored.positions, {}};
  for (const auto& of_role : explored.moves) colours.moves.emplace_back(of_role.size(), 1);
  return colours;
}

// Sums do not depend on an order.
void refine(const Explored& explored, Colours& colours) {
  std::vector<Colour> positions(colours.positions.size(), 0);
  std::vector<Colour> arrivals(colours.positions.size(), 0);
  std::vector<std::vector<Colour>> moves;
  for (const auto& of_role : colours.moves) moves.emplace_back(of_role.size(), 0);
  for (const Explored::Step& step : explored.steps) {
    Colour joint = 7;
    for (std::size_t role = 0; role < step.moves.size(); ++role) {
      joint = mixed({joint, colours.moves[role][step.moves[role]]});
    }
    const Colour seen = mixed({colours.positions[step.from], joint, colours.positions[step.to]});
    positions[step.from] += mixed({seen, 1});
    arrivals[step.to] += mixed({seen, 2});
    for (std::size_t role = 0; role < step.moves.size(); ++role) {
      moves[role][step.moves[role]] += mixed({seen, 3});
    }
  }
  for (std::size_t p = 0; p < positions.size(); ++p) {
    colours.positions[p] = mixed({colours.positions[p], positions[p], arrivals[p]});
  }
  for (std::size_t role = 0; role < moves.size(); ++role) {
    for (std::size_t m = 0; m < moves[role].size(); ++m) {
      colours.moves[role][m] = mixed({colours.moves[role][m], moves[role][m], role});
    }
  }
}

std::size_t classes_of(const Colours& colours) {
  std::set<Colour> all(colours.positions.begin(), colours.positions.end());
  std::size_t count = all.size();
  for (const auto& of_role : colours.moves) {
    count += std::set<Colour>(of_role.begin(), of_role.end()).size();
  }
  return count;
}

bool look_alike(const Colours& a, const Colours& b) {
  const auto same = [](std::vector<Colour> x, std::vector<Colour> y) {
    std::ranges::sort(x);
    std::ranges::sort(y);
    return x == y;
  };
  if (!same(a.positions, b.positions)) return false;
  for (std::size_t role = 0; role < a.moves.size(); ++role) {
    if (!same(a.moves[role], b.moves[role])) return false;
  }
  return true;
}

class Matcher {
 public:
  Matcher(const Explored& first, const Explored& second) : first_(first), second_(second) {}

  // By role, the number of the second's move for each of the first's.
  std::optional<std::vector<std::vector<std::size_t>>> match() {
    return match(first_colours(first_), first_colours(second_));
  }

 private:
  std::optional<std::vector<std::vector<std::size_t>>> match(Colours a, Colours b) {
    constexpr int most_choices = 300;
    end_if_interrupted();
    for (std::size_t classes = 0;;) {
      refine(first_, a);
      refine(second_, b);
      if (!look_alike(a, b)) return std::nullopt;
      const std::size_t now = classes_of(a);
      if (now == classes) break;
      classes = now;
    }
    // The smallest class of moves that are not told apart.
    std::optional<std::pair<std::size_t, Colour>> open;
    std::size_t smallest = ~std::size_t{0};
    for (std::size_t role = 0; role < a.moves.size(); ++role) {
      std::map<Colour, std::size_t> sizes;
      for (const Colour colour : a.moves[role]) ++sizes[colour];
      for (const auto& [colour, size] : sizes) {
        if (size > 1 && size < smallest) {
          smallest = size;
          open = {role, colour};
        }
      }
    }
    if (!open) return pairs(a, b);
    const auto [role, colour] = *open;
    const auto chosen =
        static_cast<std::size_t>(std::ranges::find(a.moves[role], colour) - a.moves[role].begin());
    for (const std::size_t m : candidates(role, chosen, b.moves[role], colour)) {
      if (++choices_ > most_choices) return std::nullopt;
      Colours further_a = a;
      Colours further_b = b;
      further_a.moves[role][chosen] = further_b.moves[role][m] =
          mixed({colour, 11, static_cast<Colour>(choices_)});
      if (auto found = match(std::move(further_a), std::move(further_b))) return found;
    }
    return std::nullopt;
  }

  // Those of the colour; first the move of the same term, then those of the same names in another
  // order: play may not tell yet what a name suggests.
  std::vector<std::size_t> candidates(std::size_t role, std::size_t chosen,
                                      const std::vector<Colour>& colours, Colour colour) const {
    const auto names = [](const Term& term) {
      std::multiset<std::string> all;
      for (const Term::Symbol& symbol : term.symbols()) all.insert(symbol.name);
      return all;
    };
    const Term& own = first_.moves[role][chosen];
    std::vector<std::pair<int, std::size_t>> ranked;
    for (std::size_t m = 0; m < colours.size(); ++m) {
      if (colours[m] != colour) continue;
      const Term& other = second_.moves[role][m];
      const int rank = own == other ? 0 : names(own) == names(other) ? 1 : 2;
      ranked.emplace_back(rank, m);
    }
    std::ranges::sort(ranked);
    std::vector<std::size_t> result;
    for (const auto& [rank, m] : ranked) result.push_back(m);
    return result;
  }

  static std::vector<std::vector<std::size_t>> pairs(const Colours& a, const Colours& b) {
    std::vector<std::vector<std::size_t>> result;
    for (std::size_t role = 0; role < a.moves.size(); ++role) {
      std::vector<std::size_t>& of_role = result.emplace_back();
      for (const Colour colour : a.moves[role]) {
        of_role.push_back(static_cast<std::size_t>(std::ranges::find(b.moves[role], colour) -
                                                   b.moves[role].begin()));
      }
    }
    return result;
  }

  const Explored& first_;
  const Explored& second_;
  int choices_ = 0;
};

// Pairs of moves as patterns, if every kind of move only has another name, other constants and its
// arguments in another order; so that it holds of moves that were not met, too.
class Generaliser {
 public:
  bool add(const Term& first, const Term& second) {
    if (first.arity() != second.arity()) return false;
    Kind& kind = kinds_[{first.name(), first.arity()}];
    if (kind.pairs.empty()) kind.other = second.name();
    if (kind.other != second.name()) return false;
    kind.pairs.emplace_back(first.arguments(), second.arguments());
    return true;
  }

  // Adds to a renaming; false if there is no such pattern.
  bool write(Renaming& renaming) {
    for (const auto& [name, kind] : kinds_) {
      if (!fit(kind, renaming, name.first, name.second)) return false;
    }
    for (const auto& [own, other] : names_) {
      if (own != other) renaming.names.emplace_back(own, other);
    }
    return true;
  }
  bool add_name(const std::string& own, const std::string& other) {
    const auto [known, is_new] = names_.try_emplace(own, other);
    const auto [back, is_new_back] = others_.try_emplace(other, own);
    return known->second == other && back->second == own;
  }

 private:
  struct Kind {
    std::string other;
    std::vector<std::pair<std::vector<Term>, std::vector<Term>>> pairs;
  };

  // The first order of arguments that goes with one renaming of constants.
  bool fit(const Kind& kind, Renaming& renaming, const std::string& name, std::size_t arity) {
    std::vector<std::size_t> order(arity);
    std::iota(order.begin(), order.end(), std::size_t{0});
    do {
      const auto names = names_;
      const auto others = others_;
      if (fits(kind, order)) {
        std::vector<Term> own;
        std::vector<Term> other(arity, Term::constant("?a"));
        for (std::size_t a = 0; a < arity; ++a) {
          own.push_back(Term::constant(fmt::format("?a{}", a + 1)));
          other[order[a]] = own.back();
        }
        // In the same order, the name says all.
        const bool in_order = std::ranges::is_sorted(order);
        if (in_order && add_name(name, kind.other)) return true;
        if (arity == 0) return false;
        if (name != kind.other || !in_order) {
          renaming.moves.emplace_back(Term::function(name, own), Term::function(kind.other, other));
        }
        return true;
      }
      names_ = names;
      others_ = others;
    } while (std::ranges::next_permutation(order).found);
    return false;
  }
  bool fits(const Kind& kind, const std::vector<std::size_t>& order) {
    for (const auto& [own, other] : kind.pairs) {
      for (std::size_t a = 0; a < own.size(); ++a) {
        if (own[a].arity() > 0 || other[order[a]].arity() > 0) return false;
        if (!add_name(own[a].name(), other[order[a]].name())) return false;
      }
    }
    return true;
  }

  std::map<std::pair<std::string, std::size_t>, Kind> kinds_;
  std::map<std::string, std::string> names_;
  std::map<std::string, std::string> others_;
};

Renaming renaming_of(const Game& first, const std::vector<Role>& roles, const Explored& explored,
                     const Explored& other, const std::vector<std::vector<std::size_t>>& pairs) {
  const auto each_pair = [&](const auto& visit) {
    std::set<std::pair<std::string, std::string>> known;
    for (std::size_t role = 0; role < pairs.size(); ++role) {
      for (std::size_t m = 0; m < pairs[role].size(); ++m) {
        const Term& own = explored.moves[role][m];
        const Term& of_second = other.moves[role][pairs[role][m]];
        if (known.emplace(own.to_string(), of_second.to_string()).second) visit(own, of_second);
      }
    }
  };
  Generaliser generaliser;
  bool general = true;
  for (const Role& role : first.roles()) {
    general = general && generaliser.add_name(role.name(), roles[role.index()].name());
  }
  each_pair([&](const Term& own, const Term& of_second) {
    general = general && generaliser.add(own, of_second);
  });
  Renaming result;
  if (general && generaliser.write(result)) return result;
  result = {};
  for (const Role& role : first.roles()) {
    if (role.name() != roles[role.index()].name()) {
      result.names.emplace_back(role.name(), roles[role.index()].name());
    }
  }
  each_pair(
      [&](const Term& own, const Term& of_second) { result.moves.emplace_back(own, of_second); });
  return result;
}

}  // namespace

std::optional<Renaming> find_renaming(const Game& first, const Game& second, const Budget& budget) {
  constexpr std::size_t usual_positions = 3000;
  constexpr std::size_t most_roles = 6;
  const std::size_t most_positions = budget.positions.value_or(usual_positions);
  const std::size_t count = first.roles().size();
  if (count != second.roles().size() || count > most_roles) return std::nullopt;
  const Interruption interruption(budget);
  try {
    const Explored explored_first = explored(first, first.roles(), most_positions);
    std::vector<std::size_t> order(count);
    std::iota(order.begin(), order.end(), std::size_t{0});
    do {
      std::vector<Role> roles;
      bool fits = true;
      for (std::size_t r = 0; r < count; ++r) {
        roles.push_back(second.roles()[order[r]]);
        fits = fits && roles.back().is_chance() == first.roles()[r].is_chance();
      }
      if (!fits) continue;
      const Explored explored_second = explored(second, roles, most_positions);
      if (explored_second.positions.size() != explored_first.positions.size()) continue;
      if (const auto pairs = Matcher(explored_first, explored_second).match()) {
        return renaming_of(first, roles, explored_first, explored_second, *pairs);
      }
    } while (std::ranges::next_permutation(order).found);
  } catch (const Interrupted&) {
  }
  return std::nullopt;
}

}  // namespace orchard
