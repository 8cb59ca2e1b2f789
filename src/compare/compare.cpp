#include "orchard/compare.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>
#include <sstream>

#include "base/interruption.hpp"
#include "compare/equality.hpp"
#include "compare/product.hpp"
#include "game/core.hpp"
#include "orchard/circuit.hpp"
#include "orchard/random.hpp"
#include "orchard/review.hpp"

namespace orchard {
namespace {

using compare::Product;
using Kind = Difference::Kind;
using Judgement = Comparison::Verdict;

// A position of both.
struct Pair {
  Position first;
  Position second;
};

// The same line of play in both games, and what differs where it ends.
class BothGames {
 public:
  BothGames(const Game& first, const Game& second, const Renaming& renaming)
      : first_(first), second_(second), renaming_(renaming) {}

  std::vector<Difference> before_play() const;
  std::vector<Difference> at(const Pair& pair) const;
  // What roles are told by a joint move that is legal in both.
  std::vector<Difference> told(const Pair& pair, const JointMove& joint) const;

  JointMove of_second(const JointMove& joint) const {
    JointMove result;
    for (const Role& role : second_.roles()) {  // joint moves are in the order of the roles
      for (const Role& of_first : first_.roles()) {
        if (of_second(of_first) != role) continue;
        result.add(second_.move(renaming_.move_of_second(joint[of_first].term())));
      }
    }
    return result;
  }

 private:
  Role of_second(const Role& role) const {
    return *second_.role(renaming_.name_of_second(role.name()));
  }
  // Adds what is in `first` alone and in `second` alone; `first` holds pairs of what the second
  // calls it and what the first does.
  static void add_both_ways(Kind kind, const std::string& role,
                            const std::map<std::string, std::string>& first,
                            const std::set<std::string>& second, std::vector<Difference>& result) {
    for (const auto& [of_second, of_first] : first) {
      if (!second.contains(of_second)) result.push_back({kind, true, role, of_first});
    }
    for (const std::string& of_second : second) {
      if (!first.contains(of_second)) result.push_back({kind, false, role, of_second});
    }
  }

  const Game& first_;
  const Game& second_;
  const Renaming& renaming_;
};

std::vector<Difference> BothGames::before_play() const {
  std::vector<Difference> result;
  std::set<std::string> of_second;
  for (const Role& role : second_.roles()) of_second.insert(role.name());
  std::set<std::string> known;
  for (const Role& role : first_.roles()) {
    const std::string name = renaming_.name_of_second(role.name());
    known.insert(name);
    if (!of_second.contains(name)) result.push_back({Kind::roles, true, role.name(), {}});
  }
  for (const std::string& name : of_second) {
    if (!known.contains(name)) result.push_back({Kind::roles, false, name, {}});
  }
  if (result.empty() && first_.has_hidden_information() != second_.has_hidden_information()) {
    result.push_back({Kind::secrets, first_.has_hidden_information(), {}, {}});
  }
  return result;
}

std::vector<Difference> BothGames::at(const Pair& pair) const {
  std::vector<Difference> result;
  const bool over = first_.terminal(pair.first);
  if (over != second_.terminal(pair.second)) {
    result.push_back({Kind::end, over, {}, {}});
    return result;
  }
  for (const Role& role : first_.roles()) {
    const Role other = of_second(role);
    std::map<std::string, std::string> first;
    std::set<std::string> second;
    if (over) {
      for (const Term& goal : first_.goals(pair.first, role)) {
        first.emplace(goal.to_string(), goal.to_string());
      }
      for (const Term& goal : second_.goals(pair.second, other)) second.insert(goal.to_string());
    } else {
      for (const Move& move : first_.legal(pair.first, role)) {
        first.emplace(renaming_.move_of_second(move.term()).to_string(), move.to_string());
      }
      for (const Move& move : second_.legal(pair.second, other)) second.insert(move.to_string());
    }
    add_both_ways(over ? Kind::goal : Kind::move, role.name(), first, second, result);
  }
  return result;
}

std::vector<Difference> BothGames::told(const Pair& pair, const JointMove& joint) const {
  std::vector<Difference> result;
  if (!first_.has_hidden_information()) return result;
  const JointMove other = of_second(joint);
  for (const Role& role : first_.roles()) {
    std::map<std::string, std::string> first;
    std::set<std::string> second;
    const auto seen = first_.percepts(pair.first, joint, role);
    const auto seen_by_other = second_.percepts(pair.second, other, of_second(role));
    if (!seen || !seen_by_other) continue;
    for (const Term& percept : *seen) {
      first.emplace(renaming_.term_of_second(percept).to_string(), percept.to_string());
    }
    for (const Term& percept : *seen_by_other) second.insert(percept.to_string());
    add_both_ways(Kind::percept, role.name(), first, second, result);
  }
  return result;
}

// A line of the first, played in both until they differ or it ends.
struct PlayedLine {
  Line first;
  Line second;
  std::vector<Difference> differences;
};

Result<PlayedLine> played_in_both(const Game& first, const Game& second, const BothGames& both,
                                  const std::vector<JointMove>& joints) {
  PlayedLine played{{{first.initial()}, {}}, {{second.initial()}, {}}, {}};
  for (std::size_t ply = 0;; ++ply) {
    const Pair here{played.first.last(), played.second.last()};
    played.differences = both.at(here);
    if (!played.differences.empty() || ply == joints.size()) return played;
    const std::vector<Difference> told = both.told(here, joints[ply]);
    const JointMove other = both.of_second(joints[ply]);
    auto next = first.next(here.first, joints[ply]);
    auto next_of_second = second.next(here.second, other);
    if (!next) return next.diagnostics();
    if (!next_of_second) return next_of_second.diagnostics();
    played.first.positions.push_back(*next);
    played.first.joints.push_back(joints[ply]);
    played.second.positions.push_back(*next_of_second);
    played.second.joints.push_back(other);
    if (!told.empty()) {
      played.differences = told;
      return played;
    }
  }
}

// Joint moves of one game as those of another with the same terms.
std::vector<JointMove> joints_in(const Game& game, const Game& from, const Line& line) {
  std::vector<JointMove> result;
  for (const JointMove& joint : line.joints) {
    JointMove& own = result.emplace_back();
    for (const Role& role : from.roles()) {
      own.add(game.move(joint[role].term()));
    }
  }
  return result;
}

// Whether the same rules are left of both when what never changes is worked out: then only facts
// that play does not ask for, or the way in which facts are derived, can differ. Not where a
// circuit is made of what play reaches.
bool have_same_ground_rules(const Game& first, const Game& second) {
  const auto lines = [](const Game& game) {
    std::multiset<std::string> result;
    if (GameAccess::core(game)->limits().reached) return result;
    const auto rules = ground_rules(game);  // with the roles and the start
    if (!rules) return result;
    std::istringstream text(*rules);
    for (std::string line; std::getline(text, line);) result.insert(line);
    return result;
  };
  const std::multiset<std::string> of_first = lines(first);
  return !of_first.empty() && of_first == lines(second);
}

class Judge {
 public:
  Judge(const Game& first, const Game& second, const CompareOptions& options)
      : first_(first),
        second_(second),
        options_(options),
        both_(first, second, options.renaming),
        clock_(options.budget) {
    result_.renaming = options.renaming;
  }

  Result<Comparison> run() {
    try {
      if (Diagnostics faults = judge(); !faults.empty()) return faults;
    } catch (const Interrupted& interrupted) {
      result_.ending = interrupted.ending;
    }
    result_.seconds = clock_.seconds();
    return std::move(result_);
  }

 private:
  Diagnostics judge();
  Diagnostics look_at(const Product& product);
  Diagnostics take(const Sought& sought, const Game& product);
  void play_at_random();

  ReviewOptions looking() const {
    ReviewOptions options;
    options.budget = options_.budget;
    if (options_.budget.seconds) {
      options.budget.seconds = std::max(0.0, *options_.budget.seconds - clock_.seconds());
    }
    options.threads = options_.threads;
    options.seed = options_.seed;
    return options;
  }

  const Game& first_;
  const Game& second_;
  const CompareOptions& options_;
  BothGames both_;
  Stopwatch clock_;
  Comparison result_;
};

Diagnostics Judge::judge() {
  result_.differences = both_.before_play();
  if (!result_.differences.empty()) {
    result_.verdict = Judgement::different;
    return {};
  }
  if (options_.renaming.empty() && first_.digest() == second_.digest()) {
    result_.verdict = Judgement::same;
    result_.same_rules = result_.proved = true;
    return {};
  }
  if (options_.renaming.empty() && have_same_ground_rules(first_, second_)) {
    result_.verdict = Judgement::same;
    result_.proved = true;
    return {};
  }
  auto product = compare::product_of(first_, second_, options_.renaming);
  if (!product) return product.diagnostics();
  if (!has_circuit(product->game)) {
    auto reached = with_reached_circuit(product->game, options_.budget);
    if (!reached) {
      result_.no_circuit = reached.diagnostics();
      play_at_random();
      return {};
    }
    product->game = *reached;
  }
  return look_at(*product);
}

// First at the shape of both, then at few positions, then for a proof, then at as many positions as
// the budget bears.
Diagnostics Judge::look_at(const Product& product) {
  compare::Sameness sameness(product.game, product.different, options_.seed);
  if (sameness.shows_by_shape()) {
    result_.verdict = Judgement::same;
    result_.proved = true;
    return {};
  }
  end_if_interrupted();
  constexpr std::uint64_t first_look = 160'000;
  ReviewOptions options = looking();
  const std::uint64_t most = options.budget.positions.value_or(first_look);
  options.budget.positions = std::min(first_look, most);
  options.budget.checkpoint.reset();
  auto sought = find_position(product.game, product.different, options);
  if (!sought) return sought.diagnostics();
  if (Diagnostics faults = take(*sought, product.game); !faults.empty()) return faults;
  const bool out_of_time = sought->ending == Ending::time || sought->ending == Ending::stopped;
  if (result_.verdict != Judgement::undecided || out_of_time) return {};
  if (sameness.shows_by_induction()) {
    result_.verdict = Judgement::same;
    result_.proved = true;
    return {};
  }
  end_if_interrupted();
  options = looking();
  if (options.budget.positions && *options.budget.positions <= first_look) return {};
  sought = find_position(product.game, product.different, options);
  if (!sought) return sought.diagnostics();
  return take(*sought, product.game);
}

Diagnostics Judge::take(const Sought& sought, const Game& product) {
  result_.positions = std::max(result_.positions, sought.positions);
  result_.ending = sought.ending;
  if (sought.line) {
    auto played = played_in_both(first_, second_, both_, joints_in(first_, product, *sought.line));
    if (!played) return played.diagnostics();
    result_.verdict = Judgement::different;
    result_.differences = std::move(played->differences);
    result_.first_line = std::move(played->first);
    result_.second_line = std::move(played->second);
    result_.shortest = sought.shortest;
  } else if (sought.proved || sought.ending == Ending::complete) {
    result_.verdict = Judgement::same;
    result_.proved = sought.proved && sought.ending != Ending::complete;
  }
  return {};
}

// Without a circuit: random games of the first, played in the second as well.
void Judge::play_at_random() {
  constexpr std::uint64_t most_games = 1000;
  constexpr std::uint64_t most_plies = 1000;
  const std::uint64_t most_positions = options_.budget.positions.value_or(3'000'000);
  result_.shortest = false;
  Random random(options_.seed);
  for (; result_.random_games < most_games; ++result_.random_games) {
    std::vector<JointMove> joints;
    Pair pair{first_.initial(), second_.initial()};
    while (joints.size() < most_plies) {
      if (const auto ending = clock_.check(result_.positions)) {
        result_.ending = *ending;
        return;
      }
      if (++result_.positions >= most_positions) {
        result_.ending = Ending::positions;
        return;
      }
      bool differs = !both_.at(pair).empty();
      JointMove joint;
      bool goes_on = !differs && !first_.terminal(pair.first);
      for (const Role& role : first_.roles()) {
        if (!goes_on) break;
        const std::vector<Move> legal = first_.legal(pair.first, role);
        goes_on = !legal.empty();
        if (goes_on) joint.add(legal[random.below(legal.size())]);
      }
      if (goes_on) {
        differs = !both_.told(pair, joint).empty();
        joints.push_back(joint);
      }
      if (differs) {
        auto played = played_in_both(first_, second_, both_, joints);
        if (!played) return;
        result_.verdict = Judgement::different;
        result_.differences = std::move(played->differences);
        result_.first_line = std::move(played->first);
        result_.second_line = std::move(played->second);
        return;
      }
      if (!goes_on) break;
      auto next = first_.next(pair.first, joint);
      auto next_of_second = second_.next(pair.second, both_.of_second(joint));
      if (!next || !next_of_second) break;  // too large for the reference evaluator
      pair = {*next, *next_of_second};
    }
  }
  result_.ending = Ending::positions;
}

// A name of the renaming that neither game has.
Diagnostics unknown_names(const Game& first, const Game& second, const Renaming& renaming) {
  Diagnostics result;
  const auto check = [&](const Game& game, const std::string& name, std::string_view which) {
    if (GameAccess::core(game)->terms().find_symbol(name)) return;
    result.add(plain_error("bad-renaming", fmt::format("the {} game has no name {}", which, name),
                           "write (name FIRST SECOND): the first game's name stands first"));
  };
  for (const auto& [of_first, of_second] : renaming.names) {
    check(first, of_first, "first");
    check(second, of_second, "second");
  }
  for (const auto& [of_first, of_second] : renaming.moves) {
    check(first, of_first.name(), "first");
    check(second, of_second.name(), "second");
  }
  return result;
}

}  // namespace

std::string_view name_of(Difference::Kind kind) {
  switch (kind) {
    case Kind::roles:
      return "role";
    case Kind::secrets:
      return "secrets";
    case Kind::move:
      return "move";
    case Kind::end:
      return "end";
    case Kind::goal:
      return "goal";
    case Kind::percept:
      return "percept";
  }
  return "";
}

std::string_view name_of(Comparison::Verdict verdict) {
  switch (verdict) {
    case Judgement::same:
      return "same";
    case Judgement::different:
      return "different";
    case Judgement::undecided:
      return "undecided";
  }
  return "";
}

Result<Comparison> compare_games(const Game& first, const Game& second,
                                 const CompareOptions& options) {
  const Interruption interruption(options.budget);
  if (Diagnostics faults = unknown_names(first, second, options.renaming); !faults.empty()) {
    return faults;
  }
  auto compared = Judge(first, second, options).run();
  if (!options.find_names || !options.renaming.empty()) return compared;
  for (const std::uint64_t positions : {3'000, 30'000}) {
    if (!compared || compared->verdict != Judgement::different) return compared;
    Budget budget;
    budget.positions = positions;
    const auto found = find_renaming(first, second, budget);
    if (!found || found->empty()) continue;
    CompareOptions renamed = options;
    renamed.renaming = *found;
    if (unknown_names(first, second, *found).empty()) {
      compared = Judge(first, second, renamed).run();
    }
  }
  return compared;
}

}  // namespace orchard
