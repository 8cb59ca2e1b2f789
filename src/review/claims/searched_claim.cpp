#include "review/claims/searched_claim.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <map>

#include "base/counted.hpp"
#include "explore/sampling/joint_moves.hpp"
#include "review/claims/some_move.hpp"

namespace orchard::review {

using Number = StateSpace::Number;

std::vector<Instance> instances_of(const Inquiry& inquiry, const Claim& claim,
                                   const std::string& relation) {
  const ground::GroundProgram& ground = inquiry.exploration().ground();
  const auto instances = [&](const std::string& name) {
    std::map<std::vector<std::string>, ground::GroundProgram::Instance> known;
    const auto id =
        ground.description().find(name, static_cast<std::uint32_t>(claim.variables.size()));
    if (!id) return known;
    for (auto& instance : ground.instances(*id)) {
      std::vector<std::string> key;
      for (const TermId term : instance.arguments) key.push_back(ground.terms().text(term));
      known.emplace(std::move(key), std::move(instance));
    }
    return known;
  };
  const auto known = instances(relation);
  const auto range = instances(claim.range);
  std::vector<Instance> result;
  std::vector<std::size_t> choice(claim.variables.size(), 0);
  while (true) {
    std::vector<std::string> key;
    Instance next{{}, circuit::never, false};
    for (std::size_t v = 0; v < choice.size(); ++v) {
      key.push_back(claim.values[v][choice[v]]);
      next.choice.push_back({claim.variables[v], key.back()});
    }
    if (const auto at = known.find(key); at != known.end()) {
      const ground::AtomId atom = at->second.atom;
      if (atom == ground::no_atom) {
        next.signal = circuit::always;
      } else {
        next.signal = inquiry.game().atoms[ground::index_of(atom)];
        next.needs_move = ground.phase(atom) == rules::Phase::step;
      }
    }
    if (claim.range.empty() || range.contains(key)) result.push_back(std::move(next));
    std::size_t v = 0;
    while (v < choice.size() && ++choice[v] == claim.values[v].size()) choice[v++] = 0;
    if (v == choice.size()) return result;
  }
}

namespace {

// Where a formula is met first that asks for the move that is made.
struct StepSighting {
  std::optional<Exploration::StepPlace> first;
  std::uint64_t count = 0;
};

std::vector<StepSighting> look_at_steps(const Inquiry& inquiry,
                                        const std::vector<Instance>& instances) {
  std::vector<Signal> signals;
  for (const Instance& instance : instances) signals.push_back(instance.signal);
  explore::Watch watch(inquiry.exploration().lanes(), inquiry.network(), std::move(signals));
  std::vector<StepSighting> result(instances.size());
  inquiry.exploration().look_at_steps(watch, [&](std::span<const Exploration::StepPlace> places) {
    for (std::size_t s = 0; s < result.size(); ++s) {
      const std::uint64_t here = watch.count(s);
      if (here == 0) continue;
      result[s].count += here;
      if (result[s].first) continue;
      std::size_t at = 0;
      while (!watch.holds(s, at)) ++at;
      result[s].first = places[at];
    }
  });
  return result;
}

}  // namespace

SearchedClaim::SearchedClaim(Watchlist& list, const Claim& claim)
    : claim_(claim), instances_(instances_of(list, claim, claim.relation)) {
  for (const Instance& instance : instances_) {
    needs_moves_ = needs_moves_ || instance.needs_move;
  }
  std::optional<SomeMove> some_move;
  if (needs_moves_) {
    if (!list.exploration().complete()) some_move = SomeMove::of(list);
    if (!some_move) return;
    other_moves_ = some_move->others();
  }
  for (const Instance& instance : instances_) {
    const bool hoped = claim.kind == Claim::Kind::possible;
    const Signal signal = instance.needs_move ? (*some_move)(instance.signal) : instance.signal;
    watched_.push_back({{}, hoped ? list.watch_hope(signal) : list.watch_fault(signal)});
  }
}

// What the findings say of a claim that was searched for.
class ClaimSearch {
 public:
  ClaimSearch(Findings& findings, const SearchedClaim& asked)
      : findings_(findings),
        exploration_(findings.exploration()),
        asked_(asked),
        instances_(asked.instances_) {
    if (asked.needs_moves_) {
      look_with_moves();
    } else {
      look_at_positions();
    }
  }

  Answer answer() { return asked_.claim_.kind == Claim::Kind::possible ? possible() : failing(); }
  Sought sought();

 private:
  struct Met {
    std::size_t instance = 0;
    Exploration::Spot spot;
    std::optional<std::size_t> step{};  // of a position explored
    std::uint64_t count = 0;
    std::optional<Signal> with_move{};  // that some joint move makes hold there
  };

  void look_at_positions();
  void look_with_moves();
  void meet_watched();
  bool thought_of_all_moves() const;
  bool looked_at_all() const;
  bool is_impossible(std::size_t instance);
  Line line() const;
  Line line_with_move() const;
  bool is_shortest() const { return Exploration::is_shortest(met_->spot); }
  void show(Answer& answer) const;
  Reach reach() const;
  Answer failing();
  Answer possible();

  Findings& findings_;
  Exploration& exploration_;
  const SearchedClaim& asked_;
  const std::vector<Instance>& instances_;
  std::optional<Met> met_;
  std::vector<std::size_t> missing_;  // instances that were met nowhere
};

Answer SearchedClaim::conclude(Findings& findings) const {
  return ClaimSearch(findings, *this).answer();
}

Sought SearchedClaim::sought(Findings& findings) const {
  return ClaimSearch(findings, *this).sought();
}

Sought ClaimSearch::sought() {
  Sought result;
  if (!met_) {
    result.proved = !looked_at_all() && !exploration_.keeps_to_explored();
    for (std::size_t i = 0; i < instances_.size() && result.proved; ++i) {
      result.proved = is_impossible(i);
    }
    return result;
  }
  result.line = line();
  result.choice = instances_[met_->instance].choice;
  result.shortest = is_shortest();
  return result;
}

void ClaimSearch::look_at_positions() {
  for (std::size_t i = 0; i < asked_.watched_.size(); ++i) {
    if (!findings_.sighting(asked_.watched_[i].number).first) missing_.push_back(i);
  }
  meet_watched();
}

// The first place where some watch was seen.
void ClaimSearch::meet_watched() {
  const Watched* const first = soonest(findings_, asked_.watched_);
  if (first == nullptr) return;
  const auto instance = static_cast<std::size_t>(first - asked_.watched_.data());
  const auto& sighting = findings_.sighting(first->number);
  met_ = Met{instance, *sighting.first, std::nullopt, sighting.count};
  if (asked_.needs_moves_) met_->with_move = instances_[instance].signal;
}

// Whether there are watches for what asks for moves, and they tell all.
bool ClaimSearch::thought_of_all_moves() const {
  return asked_.other_moves_ && !findings_.sighting(*asked_.other_moves_).first;
}

bool ClaimSearch::looked_at_all() const {
  return asked_.needs_moves_ && !thought_of_all_moves() ? exploration_.complete()
                                                        : exploration_.looked_at_all();
}

// Whether an instance is proved to be so nowhere, whatever is played.
bool ClaimSearch::is_impossible(std::size_t instance) {
  if (asked_.needs_moves_ && !(thought_of_all_moves() && findings_.never(*asked_.other_moves_)))
    return false;
  return findings_.never(asked_.watched_[instance].number);
}

void ClaimSearch::look_with_moves() {
  const auto sightings = look_at_steps(findings_, instances_);
  Number earliest = 0;
  for (std::size_t s = 0; s < sightings.size(); ++s) {
    if (!sightings[s].first) {
      const bool beyond =
          asked_.other_moves_ && findings_.sighting(asked_.watched_[s].number).first;
      if (!beyond) missing_.push_back(s);
      continue;
    }
    const auto& place = *sightings[s].first;
    if (met_ && place.position >= earliest) continue;
    earliest = place.position;
    const bool all = thought_of_all_moves() && exploration_.looked_at_all();
    met_ = Met{s, Exploration::Spot(place.position), std::nullopt,
               all ? findings_.sighting(asked_.watched_[s].number).count : sightings[s].count};
    if (place.step != Exploration::StepPlace::no_step) met_->step = place.step;
  }
  if (!met_) meet_watched();
}

Line ClaimSearch::line() const {
  if (met_->with_move) return line_with_move();
  if (!met_->step) return exploration_.line_to(met_->spot);
  const Number position = std::get<Number>(met_->spot);
  std::vector<Number> line = exploration_.space().line_to(position);
  line.push_back(exploration_.space().steps(position)[*met_->step]);
  return exploration_.line_through(line);
}

// To the position, and on with the first joint move that makes it hold; there is none at an end.
Line ClaimSearch::line_with_move() const {
  LaneEvaluator evaluator(exploration_.lanes());
  explore::Watch watch(exploration_.lanes(), findings_.network(), {*met_->with_move});
  return exploration_.line_to(met_->spot, [&](std::span<const std::uint64_t> row) {
    std::optional<std::vector<std::uint32_t>> made;
    std::vector<std::vector<std::uint32_t>> legal(exploration_.space().roles());
    evaluator.set_positions(row, 1);
    if (evaluator.terminal(0)) return made;
    for (std::size_t role = 0; role < legal.size(); ++role) evaluator.legal(0, role, legal[role]);
    explore::each_joint_move(legal, [&](const std::vector<std::uint32_t>& joint) {
      if (made) return;
      watch.set_joint(0, joint);
      watch.look(row, 1);
      if (watch.holds(0, 0)) made = joint;
    });
    return made;
  });
}

void ClaimSearch::show(Answer& answer) const {
  answer.line = line();
  const std::size_t plies = answer.line->joints.size();
  answer.line_title = plies == 0 ? "at the start"
                                 : fmt::format("after {}{}", plies_text(plies),
                                               is_shortest() ? ", the shortest line" : "");
}

Reach ClaimSearch::reach() const {
  Reach reach = asked_.needs_moves_ && !thought_of_all_moves() ? exploration_.reach_of_steps()
                                                               : exploration_.reach();
  reach.joint_moves = asked_.needs_moves_;
  return reach;
}

Answer ClaimSearch::failing() {
  if (!met_) {
    std::vector<Watched> watched;
    if (!asked_.needs_moves_ || thought_of_all_moves()) watched = asked_.watched_;
    if (asked_.needs_moves_ && !watched.empty()) watched.push_back({{}, *asked_.other_moves_});
    Answer answer = nowhere(findings_, asked_.claim_.name, {}, watched);
    answer.evidence.reach.joint_moves = asked_.needs_moves_;
    return answer;
  }
  Answer answer{asked_.claim_.name, Verdict::fails, {"fails", instances_[met_->instance].choice}};
  if (met_->count > 1) {
    answer.evidence.count = met_->count;
    answer.evidence.reach = looked_at_all() ? reach() : Reach{Reach::Kind::some_positions};
  }
  show(answer);
  return answer;
}

Answer ClaimSearch::possible() {
  Answer answer{asked_.claim_.name, Verdict::holds, {}};
  Evidence& evidence = answer.evidence;
  if (!missing_.empty()) {
    const auto impossible =
        looked_at_all()
            ? missing_.begin()
            : std::ranges::find_if(missing_, [&](std::size_t i) { return is_impossible(i); });
    const bool proved = !looked_at_all() && impossible != missing_.end();
    const std::size_t shown = proved ? *impossible : missing_.front();
    answer.verdict = proved || looked_at_all() ? Verdict::fails : Verdict::unknown;
    evidence.finding = answer.verdict == Verdict::fails ? "never holds" : "was not met";
    evidence.choice = instances_[shown].choice;
    evidence.reach = proved ? Reach{Reach::Kind::proved} : reach();
    if (missing_.size() > 1) {
      evidence.remarks.push_back(
          fmt::format("{} for {}", proved ? "not met" : "nor",
                      counted(missing_.size() - 1, "other choice", "other choices")));
    }
    return answer;
  }
  show(answer);
  evidence.finding = fmt::format("{} after {}", is_shortest() ? "first holds" : "holds",
                                 plies_text(answer.line->joints.size()));
  evidence.choice = instances_[met_->instance].choice;
  if (instances_.size() > 1) {
    evidence.remarks.push_back(
        fmt::format("holds somewhere for all {} choices", instances_.size()));
  }
  return answer;
}

}  // namespace orchard::review
