#include "review/inquiry/inquiry.hpp"

#include <algorithm>

#include "prove/counts.hpp"
#include "prove/measures.hpp"
#include "prove/reachability.hpp"

namespace orchard::review {

circuit::Copier Inquiry::with_moves(const std::vector<std::uint32_t>* joint) const {
  circuit::Copier result(game().network, network());
  for (const Signal fluent : game().fluents) result.put(fluent, fluent);
  for (std::size_t role = 0; role < game().does.size(); ++role) {
    for (std::uint32_t m = 0; m < game().does[role].size(); ++m) {
      const bool made = joint != nullptr && m == (*joint)[role];
      result.put(game().does[role][m], made ? circuit::always : circuit::never);
    }
  }
  return result;
}

std::vector<Signal> Inquiry::next_after(const std::vector<std::uint32_t>& joint) const {
  circuit::Copier copy = with_moves(&joint);
  std::vector<Signal> result;
  for (const Signal next : game().next) result.push_back(copy(next));
  return result;
}

void Watchlist::watch_what_helps_proofs() {
  if (exploration().complete() || exploration().keeps_to_explored()) return;
  const ground::GroundProgram& ground = exploration().ground();
  for (prove::FluentGroup& group : prove::suggested_groups(ground, game(), network())) {
    const std::size_t several = watch(group.several);
    const std::size_t none = watch(group.none);
    watches_.groups.push_back({std::move(group), several, none});
  }
  for (const Signal pair : prove::suggested_pairs(ground, game(), network())) {
    watches_.hints.push_back(watch(pair));
  }
  prove::CountCollector counts(ground);
  exploration().sample([&](std::span<const std::uint64_t> rows,
                           std::span<const SampledGames::Place> places,
                           const LaneEvaluator&) { counts.look(rows, places.size()); });
  watches_.sums = counts.sums(game(), network());
  for (const prove::SumSuspect& sum : watches_.sums) {
    for (const auto& never : {sum.over, sum.under}) {
      for (const Signal fault : never) watches_.hints.push_back(watch(fault));
    }
  }
}

Findings Watchlist::look(std::optional<Solution> solution) && {
  watch_what_helps_proofs();
  Watches watches = std::move(watches_);
  Findings findings(std::move(*this), std::move(watches), std::move(solution));
  findings.work_out_what_is_open();
  return findings;
}

Findings::Findings(Inquiry&& inquiry, Watches&& watches, std::optional<Solution> solution)
    : Inquiry(std::move(inquiry)),
      watches_(std::move(watches)),
      facts_(exploration(), std::move(solution)),
      sightings_(exploration().look(network(), watches_.signals)),
      never_(watches_.signals.size()) {}

// A fault that was seen nowhere may be nowhere, and may help to prove the rest.
prove::Induction& Findings::induction() {
  if (induction_) return *induction_;
  induction_ = std::make_unique<prove::Induction>(exploration().lanes().network(), network(),
                                                  exploration().ground().initial());
  // First what is exactly one wherever it was looked, as a square's content: with much work, since
  // everything else rests on it. Then the faults with the groups that the start suggests most.
  const auto unseen = [&](std::span<const std::size_t> watches) {
    std::vector<Signal> result;
    for (const std::size_t s : watches) {
      const Signal signal = watches_.signals[s];
      if (!sightings_[s].first && !induction_->proved().contains(signal)) result.push_back(signal);
    }
    return result;
  };
  std::vector<std::size_t> whole;  // all fluents of a name
  std::vector<std::size_t> exact;
  for (const Watches::SuggestedGroup& suggested : watches_.groups) {
    if (!suggested.group.one_at_start) continue;
    if (sightings_[suggested.several].first || sightings_[suggested.none].first) continue;
    std::vector<std::size_t>& stage = is_whole(suggested.group) ? whole : exact;
    stage.push_back(suggested.several);
    stage.push_back(suggested.none);
  }
  std::vector<std::size_t> first = watches_.faults;
  std::vector<std::size_t> further = watches_.hints;
  for (const Watches::SuggestedGroup& suggested : watches_.groups) {
    std::vector<std::size_t>& stage = suggested.group.one_at_start ? first : further;
    stage.push_back(suggested.several);
    stage.push_back(suggested.none);
  }
  constexpr std::uint64_t more_work = 8;
  induction_->suspect(unseen(whole));
  prove_by_single_steps();
  if (by_steps_) {
    for (const Signal fault : unseen(watches_.faults)) {
      if (by_steps_->never(fault)) induction_->know({fault});
    }
  }
  induction_->suspect(unseen(exact), more_work);
  induction_->suspect(unseen(first));
  if (!Exploration::is_large(exploration().lanes())) induction_->suspect(unseen(further));
  return *induction_;
}

// Whether the group is all fluents of its name.
bool Findings::is_whole(const prove::FluentGroup& group) const {
  const ground::GroundProgram& ground = exploration().ground();
  const auto of_name = std::ranges::count_if(ground.fluents(), [&](const auto& fluent) {
    return ground.terms().term(fluent.term).name() == group.name;
  });
  return of_name == std::ssize(group.fluents);
}

// Groups of which one always seems to hold, and counts, one joint move at a time.
void Findings::prove_by_single_steps() {
  const auto is_open = [&](Signal signal) { return !induction_->proved().contains(signal); };
  by_steps_ =
      std::make_unique<prove::StepInduction>(game(), network(), exploration().ground().initial());
  by_steps_->know_never({induction_->proved().begin(), induction_->proved().end()});
  std::vector<prove::SumSuspect> suspects = watches_.sums;
  for (const auto& [group, several, none] : watches_.groups) {
    if (!is_open(group.several)) {
      by_steps_->know_group(group.fluents, !is_open(group.none));
    } else if (group.one_at_start && !sightings_[several].first && !sightings_[none].first) {
      suspects.push_back({{group.fluents, {}}, 1, 1, {group.several}, {group.none}});
    }
  }
  if (!by_steps_->find_steps()) {
    by_steps_.reset();
    return;
  }
  constexpr std::uint64_t work = 1'000'000;
  induction_->know(by_steps_->suspect(suspects, {}, work));
}

// What was met nowhere and is not proved by induction is worked out from the fault backwards, as
// far as that comes: it never shows, or a line of play leads there.
void Findings::work_out_what_is_open() {
  Exploration& all = exploration();
  if (all.keeps_to_explored() || all.looked_at_all() || all.cut_short()) return;
  std::vector<std::size_t> open;
  for (const auto& watches : {watches_.faults, watches_.hopes}) {
    for (const std::size_t watch : watches) {
      if (Interruption::asked()) return;
      if (!sightings_[watch].first && !never(watch)) open.push_back(watch);
    }
  }
  if (open.empty()) return;
  prove::Reachability reachability(game(), network(), all.ground().initial());
  for (const Signal signal : induction().proved()) reachability.know_never(signal);
  constexpr std::size_t most_in_vain = 4;  // then the rest is hardly easier
  std::size_t in_vain = 0;
  for (const std::size_t watch : open) {
    if (in_vain == most_in_vain || Interruption::asked()) return;
    switch (reachability.ask(watches_.signals[watch])) {
      case prove::Reachability::Answer::never:
        never_[watch] = true;
        for (const std::vector<int>& together : reachability.invariants()) {
          std::vector<Signal> fluents;
          for (const int fluent : together) {
            const Signal signal = game().fluents[static_cast<std::size_t>(std::abs(fluent)) - 1];
            fluents.push_back(fluent > 0 ? signal : !signal);
          }
          further_invariants_.push_back(network().all(std::move(fluents)));
        }
        break;
      case prove::Reachability::Answer::reached:
        sightings_[watch] = {Exploration::WorkedOut{reachability.line()}, 1};
        break;
      case prove::Reachability::Answer::unknown:
        ++in_vain;
        break;
    }
  }
}

bool Findings::never(std::size_t number) {
  if (exploration().keeps_to_explored()) return false;
  if (watches_.signals[number] == circuit::never) return true;
  if (sightings_[number].first) return false;
  std::optional<bool>& answer = never_[number];
  if (!answer) answer = is_excluded(watches_.signals[number]);
  if (*answer) relied_on_[asks_].push_back(watches_.signals[number]);
  return *answer;
}

// By what is proved of positions, or after one ply more.
bool Findings::is_excluded(Signal signal) {
  prove::Induction& proofs = induction();
  if (proofs.proved().contains(signal)) return true;
  if (Interruption::asked()) return false;  // a question costs a look at the whole network
  return (by_steps_ && by_steps_->never(signal)) || proofs.never(signal);
}

bool Findings::is_never(Signal signal) {
  if (exploration().keeps_to_explored() || !is_excluded(signal)) return false;
  relied_on_[asks_].push_back(signal);
  return true;
}

bool Findings::never_in_steps(const WrongStep& wrong) {
  if (exploration().keeps_to_explored()) return false;
  induction();
  if (!by_steps_) return false;
  for (const prove::SingleStep& step : by_steps_->steps()) {
    end_if_interrupted();
    const Signal signal = wrong(step, by_steps_->network());
    if (by_steps_->can_be(step, signal) != prove::Solver::Answer::impossible) return false;
  }
  rests_on_steps_.insert(asks_);
  return true;
}

std::vector<Signal> Findings::invariants() {
  if (!induction_) return {};
  std::vector<Signal> result(induction_->proved().begin(), induction_->proved().end());
  result.insert(result.end(), further_invariants_.begin(), further_invariants_.end());
  return result;
}

const std::optional<prove::EndingProof>& Findings::ending_proof() {
  rests_on_steps_.insert(asks_);
  if (exploration().keeps_to_explored()) ending_proof_.emplace();
  if (ending_proof_) return *ending_proof_;
  std::vector<prove::FluentGroup> exclusive;
  for (const Watches::SuggestedGroup& suggested : watches_.groups) {
    if (never(suggested.several)) exclusive.push_back(suggested.group);
  }
  prove::StepCollector collector(exploration().ground().fluents().size());
  exploration().sample([&](std::span<const std::uint64_t> rows,
                           std::span<const SampledGames::Place> places,
                           const LaneEvaluator&) { collector.look(rows, places); });
  const auto by_chains = [&] {
    return prove::prove_ending(induction(), exploration().ground(), exploration().lanes().network(),
                               exclusive, collector.steps());
  };
  const auto by_sums = [&]() -> std::optional<prove::EndingProof> {
    if (!by_steps_) return std::nullopt;
    return prove::prove_ending_by_sums(*by_steps_, exploration().ground(), collector.steps());
  };
  // Chains say how long play can last. Of large rules sums are found faster.
  ending_proof_ = Exploration::is_large(exploration().lanes()) ? by_sums() : by_chains();
  if (!*ending_proof_)
    ending_proof_ = Exploration::is_large(exploration().lanes()) ? by_chains() : by_sums();
  return *ending_proof_;
}

}  // namespace orchard::review
