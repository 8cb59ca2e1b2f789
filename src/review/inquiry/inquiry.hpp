// One review in the making: questions put signals on a watch, all are looked for in one pass, then
// each question concludes.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "circuit/network/copier.hpp"
#include "orchard/playouts.hpp"
#include "orchard/review.hpp"
#include "orchard/solve.hpp"
#include "prove/ending.hpp"
#include "review/inquiry/endings.hpp"
#include "review/inquiry/exploration.hpp"

namespace orchard::review {

class Inquiry {
 public:
  // `budget`: of time, for proofs, beside what exploring took. `solution`: best play, if known.
  Inquiry(Exploration& exploration, Budget budget, std::optional<Solution> solution = {})
      : exploration_(exploration),
        budget_(std::move(budget)),
        network_(exploration.lanes().network().network) {
    if (solution) best_play_ = std::move(solution);
  }

  Exploration& exploration() const { return exploration_; }
  const circuit::GameNetwork& game() const { return exploration_.lanes().network(); }
  circuit::Network& network() { return network_; }  // gates may be added

  // Copies signals of the game with a joint move made, a number for each role, or none if null; and
  // the fluents that hold after one.
  circuit::Copier with_moves(const std::vector<std::uint32_t>* joint);
  std::vector<Signal> next_after(const std::vector<std::uint32_t>& joint);

  // Looks out for positions in which a signal holds; its number for `sighting`.
  std::size_t watch(Signal signal) {
    signals_.push_back(signal);
    return signals_.size() - 1;
  }
  // The same of a signal that no position should show, where proofs may help one another.
  std::size_t watch_fault(Signal signal) {
    faults_.push_back(signals_.size());
    return watch(signal);
  }
  // The same of one that some position should show: if none does, that may be proved too.
  std::size_t watch_hope(Signal signal) {
    hints_.push_back(signals_.size());
    return watch(signal);
  }
  // Puts on watch what may help proofs; needed for the proofs below, before looking.
  void prepare_proofs();
  // Looks for all of them in one pass.
  void look();
  const Exploration::Sighting& sighting(std::size_t number) const { return sightings_[number]; }

  // Where not every position is explored: whether a signal on watch is proved to hold in no
  // reachable position, by induction over the plies. Worked out at the first call.
  bool never(std::size_t number);
  bool is_never(Signal signal) { return induction().never(signal); }
  // And a proof that every line of play ends; none if none was found.
  const std::optional<prove::EndingProof>& ending_proof();

  // The clauses of the description, and which ever took part; worked out at the first call.
  const std::vector<ClauseUse>& clause_use();

  // What several questions need, worked out at the first call: explored positions with followers
  // first; 10 000 random games; best play, where that takes about a
  // second or is known.
  const EndOrder& ends();
  const Result<PlayoutStatistics>& random_play();
  const std::optional<Solution>& best_play();

 private:
  prove::Induction& induction();

  Exploration& exploration_;
  Budget budget_;
  circuit::Network network_;
  std::vector<Signal> signals_;
  std::vector<std::size_t> faults_;  // watches of them
  std::vector<std::size_t> hints_;   // watches of what may help to prove them, or be proved then
  std::vector<Exploration::Sighting> sightings_;
  struct SuggestedGroup {
    prove::FluentGroup group;
    std::size_t several = 0;  // the number of its watch
    std::size_t none = 0;
  };
  std::vector<SuggestedGroup> groups_;  // nothing where every position is explored
  std::unique_ptr<prove::Induction> induction_;
  std::vector<std::optional<bool>> never_;  // by watch, once asked
  std::optional<std::optional<prove::EndingProof>> ending_proof_;
  std::optional<std::vector<ClauseUse>> clause_use_;
  std::optional<EndOrder> ends_;
  std::optional<Result<PlayoutStatistics>> random_play_;
  std::optional<std::optional<Solution>> best_play_;
};

// A question is asked before the positions are looked at, and answers after.
using Conclusion = std::function<std::vector<Answer>()>;
using Question = Conclusion (*)(Inquiry&);

Conclusion ask_opens(Inquiry& inquiry);
Conclusion ask_ends(Inquiry& inquiry);
Conclusion ask_moves(Inquiry& inquiry);
Conclusion ask_winnable(Inquiry& inquiry);
Conclusion ask_scored(Inquiry& inquiry);
Conclusion ask_single_valued(Inquiry& inquiry);
Conclusion ask_settled(Inquiry& inquiry);
Conclusion ask_effect(Inquiry& inquiry);
Conclusion ask_dead(Inquiry& inquiry);
Conclusion ask_declared(Inquiry& inquiry);
Conclusion ask_turns(Inquiry& inquiry);
Conclusion ask_draws(Inquiry& inquiry);
Conclusion ask_balance(Inquiry& inquiry);
Conclusion ask_alike(Inquiry& inquiry);
Conclusion ask_sum(Inquiry& inquiry);
Conclusion ask_outcomes(Inquiry& inquiry);

// Something that should be found nowhere.
struct Watched {
  std::string what;
  std::size_t number = 0;  // of its watch
};
// The one that shows after the fewest plies; null if none does.
const Watched* soonest(const Inquiry& inquiry, const std::vector<Watched>& watched);

std::string plies_text(std::size_t count);  // "1 ply", "2 plies"

// A failure met at a place.
Answer failure(const Inquiry& inquiry, std::string id, const Exploration::Sighting& sighting,
               std::string evidence);
// What was looked for was found nowhere: it holds if every position was looked at or a proof is
// found, else it is unknown beyond. The evidence is `what` and how far that reaches.
Answer nowhere(Inquiry& inquiry, std::string id, std::string what,
               const std::vector<Watched>& watched);

}  // namespace orchard::review
