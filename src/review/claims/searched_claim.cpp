#include "review/claims/searched_claim.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <map>

#include "explore/sampling/joint_moves.hpp"
#include "review/claims/some_move.hpp"

namespace orchard::review {

using Number = StateSpace::Number;

std::vector<Instance> instances_of(Inquiry& inquiry, const Claim& claim,
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
      next.about +=
          fmt::format("{}{} = {}", v == 0 ? " for " : ", ", claim.variables[v], key.back());
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

std::vector<StepSighting> look_at_steps(Inquiry& inquiry, const std::vector<Instance>& instances) {
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

SearchedClaim::SearchedClaim(Inquiry& inquiry, const Claim& claim)
    : inquiry_(inquiry), claim_(claim), instances_(instances_of(inquiry, claim, claim.relation)) {
  for (const Instance& instance : instances_) {
    needs_moves_ = needs_moves_ || instance.needs_move;
  }
  std::optional<SomeMove> some_move;
  if (needs_moves_) {
    if (!inquiry.exploration().complete()) some_move = SomeMove::of(inquiry);
    if (!some_move) return;
    other_moves_ = some_move->others();
  }
  for (const Instance& instance : instances_) {
    const bool hoped = claim.kind == Claim::Kind::possible;
    const Signal signal = instance.needs_move ? (*some_move)(instance.signal) : instance.signal;
    watched_.push_back(
        {instance.about, hoped ? inquiry.watch_hope(signal) : inquiry.watch_fault(signal)});
  }
}

void SearchedClaim::look() {
  if (needs_moves_) {
    look_with_moves();
  } else {
    look_at_positions();
  }
}

Answer SearchedClaim::conclude() {
  look();
  return claim_.kind == Claim::Kind::possible ? possible() : nowhere_it_fails();
}

Sought SearchedClaim::sought() {
  look();
  Sought result;
  if (!met_) {
    result.proved = !looked_at_all();
    for (std::size_t i = 0; i < instances_.size() && result.proved; ++i) {
      result.proved = is_impossible(i);
    }
    return result;
  }
  result.line = line();
  result.about = met_->about.empty() ? "" : met_->about.substr(std::string_view(" for ").size());
  result.shortest = is_shortest();
  return result;
}

void SearchedClaim::look_at_positions() {
  for (std::size_t i = 0; i < watched_.size(); ++i) {
    if (!inquiry_.sighting(watched_[i].number).first) missing_.push_back(i);
  }
  if (const Watched* const first = soonest(inquiry_, watched_)) {
    const auto& sighting = inquiry_.sighting(first->number);
    met_ = Met{first->what, *sighting.first, std::nullopt, sighting.count};
  }
}

// Whether there are watches for what asks for moves, and they tell all.
bool SearchedClaim::thought_of_all_moves() const {
  return other_moves_ && !inquiry_.sighting(*other_moves_).first;
}

bool SearchedClaim::looked_at_all() const {
  const Exploration& exploration = inquiry_.exploration();
  return needs_moves_ && !thought_of_all_moves() ? exploration.complete()
                                                 : exploration.looked_at_all();
}

// Whether an instance is proved to be so nowhere, whatever is played.
bool SearchedClaim::is_impossible(std::size_t instance) {
  if (needs_moves_ && !(thought_of_all_moves() && inquiry_.never(*other_moves_))) return false;
  return inquiry_.never(watched_[instance].number);
}

void SearchedClaim::look_with_moves() {
  const auto sightings = look_at_steps(inquiry_, instances_);
  Number earliest = 0;
  for (std::size_t s = 0; s < sightings.size(); ++s) {
    if (!sightings[s].first) {
      const bool beyond = other_moves_ && inquiry_.sighting(watched_[s].number).first;
      if (!beyond) missing_.push_back(s);
      continue;
    }
    const auto& place = *sightings[s].first;
    if (met_ && place.position >= earliest) continue;
    earliest = place.position;
    const bool all = thought_of_all_moves() && inquiry_.exploration().looked_at_all();
    met_ = Met{instances_[s].about, Exploration::Spot(place.position), std::nullopt,
               all ? inquiry_.sighting(watched_[s].number).count : sightings[s].count};
    if (place.step != Exploration::StepPlace::no_step) met_->step = place.step;
  }
  if (met_) return;
  if (const Watched* const first = soonest(inquiry_, watched_)) {
    const auto& sighting = inquiry_.sighting(first->number);
    met_ = Met{first->what, *sighting.first, std::nullopt, sighting.count,
               instances_[static_cast<std::size_t>(first - watched_.data())].signal};
  }
}

Line SearchedClaim::line() const {
  const Exploration& exploration = inquiry_.exploration();
  if (met_->with_move) return line_with_move();
  if (!met_->step) return exploration.line_to(met_->spot);
  const Number position = std::get<Number>(met_->spot);
  std::vector<Number> line = exploration.space().line_to(position);
  line.push_back(exploration.space().steps(position)[*met_->step]);
  return exploration.line_through(line);
}

// To the position, and on with the first joint move that makes it hold; there is none at an end.
Line SearchedClaim::line_with_move() const {
  const Exploration& exploration = inquiry_.exploration();
  LaneEvaluator evaluator(exploration.lanes());
  explore::Watch watch(exploration.lanes(), inquiry_.network(), {*met_->with_move});
  return exploration.line_to(met_->spot, [&](std::span<const std::uint64_t> row) {
    std::optional<std::vector<std::uint32_t>> made;
    std::vector<std::vector<std::uint32_t>> legal(exploration.space().roles());
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

void SearchedClaim::show(Answer& answer) const {
  answer.line = line();
  const std::size_t plies = answer.line->joints.size();
  answer.line_title = plies == 0 ? "at the start"
                                 : fmt::format("after {}{}", plies_text(plies),
                                               is_shortest() ? ", the shortest line" : "");
}

std::string SearchedClaim::extent() const {
  const Exploration& exploration = inquiry_.exploration();
  return needs_moves_ && !thought_of_all_moves() ? exploration.extent_of_steps()
                                                 : exploration.extent();
}

Answer SearchedClaim::nowhere_it_fails() const {
  Answer answer{claim_.name, Verdict::fails, {}};
  if (!met_) {
    std::vector<Watched> watched;
    if (!needs_moves_ || thought_of_all_moves()) watched = watched_;
    if (needs_moves_ && !watched.empty()) watched.push_back({{}, *other_moves_});
    Answer nowhere_met = nowhere(inquiry_, claim_.name, {}, watched);
    if (needs_moves_) {
      std::string& evidence = nowhere_met.evidence;
      // Before how that is known, or that it is not known beyond.
      evidence.insert(std::min(evidence.find_first_of(":;"), evidence.size()),
                      " and every joint move");
    }
    return nowhere_met;
  }
  answer.evidence = "fails" + met_->about;
  if (met_->count > 1) {
    answer.evidence += fmt::format(", {} times {}", met_->count,
                                   looked_at_all() ? extent() : "as far as was looked");
  }
  show(answer);
  return answer;
}

Answer SearchedClaim::possible() {
  Answer answer{claim_.name, Verdict::holds, {}};
  if (!missing_.empty()) {
    const auto impossible =
        looked_at_all()
            ? missing_.begin()
            : std::ranges::find_if(missing_, [&](std::size_t i) { return is_impossible(i); });
    const bool proved = !looked_at_all() && impossible != missing_.end();
    const std::size_t shown = proved ? *impossible : missing_.front();
    answer.verdict = proved || looked_at_all() ? Verdict::fails : Verdict::unknown;
    answer.evidence =
        fmt::format("it is nowhere so{}, {}", instances_[shown].about,
                    proved ? "in any reachable position: proved by induction" : extent());
    if (missing_.size() > 1) {
      answer.evidence +=
          fmt::format("; nor {}for {} other choices", proved ? "met " : "", missing_.size() - 1);
    }
    return answer;
  }
  show(answer);
  answer.evidence =
      fmt::format("it is so{} after {}{}", met_->about, plies_text(answer.line->joints.size()),
                  is_shortest() ? " at the soonest" : "");
  if (instances_.size() > 1) {
    answer.evidence += fmt::format("; and for all {} choices", instances_.size());
  }
  return answer;
}

}  // namespace orchard::review
