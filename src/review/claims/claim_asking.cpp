#include "review/claims/claim_asking.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <map>

namespace orchard::review {

using Number = StateSpace::Number;
using solving::Condition;
using solving::Found;

Condition condition_of(const Inquiry& inquiry, const Instance& instance) {
  const StateSpace& space = inquiry.exploration().space();
  Condition condition;
  condition.in_position.assign(space.size(), false);
  if (instance.needs_move) condition.with_step.assign(space.step_count(), false);
  explore::Watch watch(inquiry.exploration().lanes(), inquiry.network(), {instance.signal});
  if (instance.needs_move) {
    inquiry.exploration().look_at_steps(watch, [&](std::span<const Exploration::StepPlace> places) {
      for (std::size_t at = 0; at < places.size(); ++at) {
        if (!watch.holds(0, at)) continue;
        const auto& place = places[at];
        if (place.step == Exploration::StepPlace::no_step) {
          condition.in_position[place.position] = true;
        } else {
          condition.with_step[space.first_step(place.position) + place.step] = true;
        }
      }
    });
    return condition;
  }
  // Bits that threads write at once are in different words.
  static_assert(Exploration::numbers_apart % (8 * sizeof(unsigned long)) == 0);
  inquiry.exploration().look_at_positions(
      watch, [&](std::size_t, const explore::Watch& own, std::span<const Number> positions) {
        for (std::size_t at = 0; at < positions.size(); ++at) {
          if (own.holds(0, at)) condition.in_position[positions[at]] = true;
        }
      });
  return condition;
}

solving::Forcing forcing_of(const Game& game, const Claim& claim) {
  solving::Forcing result;
  result.coalition.assign(game.roles().size(), false);
  result.fair.assign(game.roles().size(), false);
  for (const std::size_t role : claim.roles) result.coalition[role] = true;
  for (const Role& role : game.roles()) {
    if (role.is_chance() && claim.kind == Claim::Kind::can_force_almost_surely) {
      result.fair[role.index()] = true;
    }
  }
  return result;
}

std::vector<Number> followers_first(const StateSpace& space, Facts& facts) {
  std::vector<Number> result;
  const auto add = [&](Number c) {
    for (Number p = space.first_of(c); p < space.first_of(c + 1); ++p) {
      if (space.is_position(p)) result.push_back(p);
    }
  };
  std::vector<bool> ordered(space.expanded_classes(), false);
  for (const Number c : facts.ends().order) {
    ordered[c] = true;
    add(c);
  }
  for (Number c = space.expanded_classes(); c-- > 0;) {
    if (!ordered[c]) add(c);
  }
  return result;
}

namespace {

// A claim about lines of play: that all come somewhere, or that somebody can bring it about.
struct LineClaim {
  LineClaim(Watchlist& list, const Claim& asked)
      : claim(asked),
        forcing(forcing_of(list.exploration().game(), asked)),
        goals(instances_of(list, asked, is_until() ? asked.second_relation : asked.relation)) {
    if (!forces() || list.exploration().complete()) return;
    for (const Instance& goal : goals) {
      std::optional<std::size_t>& watch = watches.emplace_back();
      if (!goal.needs_move) watch = list.watch_hope(goal.signal);
    }
  }
  bool is_until() const { return claim.kind == Claim::Kind::until; }
  bool forces() const { return !claim.roles.empty(); }

  const Claim& claim;
  const solving::Forcing forcing;
  const std::vector<Instance> goals;
  std::vector<std::optional<std::size_t>> watches;  // of the goals that somebody forces
};

// What the findings say of one.
class LineConclusion {
 public:
  LineConclusion(Findings& findings, const LineClaim& asked)
      : findings_(findings),
        asked_(asked),
        claim_(asked.claim),
        space_(findings.exploration().space()),
        forcing_(asked.forcing),
        goals_(asked.goals),
        order_(followers_first(space_, findings.facts())) {}

  Answer answer() {
    const auto paths =
        is_until() ? instances_of(findings_, claim_, claim_.relation) : std::vector<Instance>{};
    Answer answer{claim_.name, Verdict::holds, {}};
    for (std::size_t i = 0; i < goals_.size(); ++i) {
      Answer one = conclude(goals_[i], is_until() ? &paths[i] : nullptr);
      if (one.verdict == Verdict::unknown && !asked_.watches.empty() && asked_.watches[i]) {
        decide_by_sighting(*asked_.watches[i], goals_[i], one);
      }
      if (one.verdict == Verdict::holds && i > 0) continue;
      answer = std::move(one);
      if (answer.verdict != Verdict::holds) return answer;
    }
    if (goals_.size() > 1) {
      answer.evidence.remarks.push_back(fmt::format("holds for all {} choices", goals_.size()));
    }
    return answer;
  }

 private:
  bool is_until() const { return asked_.is_until(); }
  bool forces() const { return asked_.forces(); }

  Found found(const Condition& goal, const Condition* path, bool beyond) const {
    return forces() ? solving::can_force(space_, goal, forcing_, order_, beyond)
                    : solving::must_reach(space_, goal, path, order_, beyond);
  }

  Answer conclude(const Instance& goal_instance, const Instance* path_instance) {
    const Exploration& exploration = findings_.exploration();
    const Condition goal = condition_of(findings_, goal_instance);
    std::optional<Condition> path;
    if (path_instance != nullptr) path = condition_of(findings_, *path_instance);
    const Condition* const on_the_way = path ? &*path : nullptr;
    const Found certain = found(goal, on_the_way, false);
    Answer answer{claim_.name, Verdict::holds, {}};
    Evidence& evidence = answer.evidence;
    evidence.choice = goal_instance.choice;
    if (certain[0] != 0) {
      if (!forces()) {
        evidence.finding = "happens on every line of play";
        return answer;
      }
      const std::vector<Number> line = forced_line(goal, certain);
      evidence.finding =
          who() + (all_is_seen(exploration) ? " can force it"
                                            : " could force it if every role saw everything");
      answer.line = exploration.line_through(line);
      answer.line_title = fmt::format("for example, after {}", plies_text(line.size() - 1));
      return answer;
    }
    const Found imaginable = exploration.complete() ? certain : found(goal, on_the_way, true);
    if (imaginable[0] != 0 && comes_with_the_end(goal_instance)) {
      evidence.finding = "happens on every line of play";
      evidence.remarks.emplace_back("every line ends, proved by induction over the plies");
      return answer;
    }
    if (imaginable[0] != 0) {
      answer.verdict = Verdict::unknown;
      evidence.finding = fmt::format("not decided by the first {} positions (depth {})",
                                     space_.positions(), space_.depths().size() - 1);
      return answer;
    }
    answer.verdict = Verdict::fails;
    evidence.finding =
        forces() ? who() + " cannot force it" : "does not happen on every line of play";
    if (forces())
      evidence.remarks.emplace_back("every choice has an answer (play --against-claim)");
    avoid(goal, on_the_way, imaginable, answer);
    return answer;
  }

  // Beyond the positions explored: all roles together force whatever can be, and nobody forces what
  // cannot.
  void decide_by_sighting(std::size_t watch, const Instance& goal, Answer& answer) {
    const Exploration& exploration = findings_.exploration();
    const auto& first = findings_.sighting(watch).first;
    if (first && std::ranges::find(forcing_.coalition, false) == forcing_.coalition.end()) {
      answer.verdict = Verdict::holds;
      answer.evidence = {who() + " can force it", goal.choice};
      answer.line = exploration.line_to(*first);
      answer.line_title =
          fmt::format("for example, after {}", plies_text(answer.line->joints.size()));
    } else if (!first && (exploration.looked_at_all() || findings_.never(watch))) {
      answer.verdict = Verdict::fails;
      answer.evidence = {who() + " cannot force it: it never holds", goal.choice};
      answer.evidence.reach =
          exploration.looked_at_all() ? exploration.reach() : Reach{Reach::Kind::proved};
    }
  }

  // Whether every line of play comes to an end, proved, and every end is as the claim says.
  bool comes_with_the_end(const Instance& goal) {
    if (claim_.kind != Claim::Kind::eventually || goal.needs_move) return false;
    const circuit::GameNetwork& game = findings_.game();
    circuit::Network& network = findings_.network();
    std::vector<Signal> can_move;
    for (const auto& legal : game.legal) can_move.push_back(network.any(legal));
    return findings_.ending_proof() &&
           findings_.is_never(network.both(!game.terminal, !network.all(std::move(can_move)))) &&
           findings_.is_never(network.both(game.terminal, !goal.signal));
  }

  std::string who() const {
    std::string names;
    for (std::size_t i = 0; i < claim_.roles.size(); ++i) {
      names +=
          (i == 0 ? "" : " and ") + findings_.exploration().game().roles()[claim_.roles[i]].name();
    }
    return names;
  }

  bool goes_on(Number p) const {
    return p < space_.expanded() && space_.kind(p) == StateSpace::Kind::open;
  }

  // The coalition plays what forces the goal, the others what takes longest.
  std::vector<Number> forced_line(const Condition& goal, const Found& found) const {
    std::vector<Number> line{0};
    while (goes_on(line.back()) && line.size() < 10'000) {
      const Number p = line.back();
      const auto steps = space_.steps(p);
      const auto choice = solving::coalition_choices(space_, p, forcing_);
      std::map<std::size_t, std::pair<std::uint32_t, std::size_t>> slowest;  // by choice
      for (std::size_t s = 0; s < steps.size(); ++s) {
        const std::uint32_t when = goal.holds(space_, p, s) ? 0
                                   : found[steps[s]] == 0   ? ~std::uint32_t{0}
                                                            : found[steps[s]];
        auto& worst = slowest.try_emplace(choice[s], when, s).first->second;
        if (when > worst.first) worst = {when, s};
      }
      const auto best = std::ranges::min_element(
          slowest, [](const auto& a, const auto& b) { return a.second.first < b.second.first; });
      if (goal.with_step.empty() && goal.holds(p)) break;
      line.push_back(steps[best->second.second]);
      if (best->second.first == 0) break;
    }
    return line;
  }

  // A line on which it does not come about: to an end, or round and round.
  void avoid(const Condition& goal, const Condition* path, const Found& found,
             Answer& answer) const {
    std::vector<Number> line{0};
    std::optional<std::size_t> repeats;
    while (goes_on(line.back()) && !repeats) {
      const Number p = line.back();
      const auto steps = space_.steps(p);
      std::optional<std::size_t> next;
      bool broken = false;
      for (std::size_t s = 0; s < steps.size() && !next; ++s) {
        if (goal.holds(space_, p, s)) continue;
        if (path != nullptr && !path->holds(space_, p, s)) {
          next = s;
          broken = true;
        } else if (found[steps[s]] == 0) {
          next = s;
        }
      }
      if (!next) break;
      const auto again = std::ranges::find(line, steps[*next]);
      if (again != line.end()) repeats = static_cast<std::size_t>(again - line.begin());
      line.push_back(steps[*next]);
      if (broken) break;
    }
    answer.line = findings_.exploration().line_through(line);
    answer.repeats_from = repeats;
    answer.line_title =
        repeats ? fmt::format("a line that repeats: the last position is that after {} again",
                              plies_text(*repeats))
                : fmt::format("a line of {} on which it does not", plies_text(line.size() - 1));
  }

  Findings& findings_;
  const LineClaim& asked_;
  const Claim& claim_;
  const StateSpace& space_;
  const solving::Forcing& forcing_;
  const std::vector<Instance>& goals_;
  const std::vector<Number> order_;
};

}  // namespace

Conclusion ask_claim(Watchlist& list, const Claim& claim) {
  switch (claim.kind) {
    case Claim::Kind::always:
    case Claim::Kind::never:
    case Claim::Kind::exclusive:
    case Claim::Kind::possible: {
      const auto searched = std::make_shared<SearchedClaim>(list, claim);
      return [searched](Findings& findings) { return std::vector{searched->conclude(findings)}; };
    }
    case Claim::Kind::eventually:
    case Claim::Kind::until:
    case Claim::Kind::can_force:
    case Claim::Kind::can_force_almost_surely:
      break;
  }
  const auto lines = std::make_shared<LineClaim>(list, claim);
  return [lines](Findings& findings) {
    return std::vector{LineConclusion(findings, *lines).answer()};
  };
}

}  // namespace orchard::review
