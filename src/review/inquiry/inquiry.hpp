// One review in the making. A question is asked in two steps with a type for each, so that neither
// can be taken at the wrong time: `Watchlist` takes what is to be looked out for, looking makes
// `Findings` of it, and from these the question concludes.
//
// What both have in common is the `Inquiry`: the exploration, and a network to which gates may be
// added at any time. `Facts` are worked out once for all who ask. One thread.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "base/interruption.hpp"
#include "circuit/network/copier.hpp"
#include "orchard/review.hpp"
#include "prove/ending.hpp"
#include "prove/step_induction.hpp"
#include "review/inquiry/exploration.hpp"
#include "review/inquiry/facts.hpp"

namespace orchard::review {

class Inquiry {
 public:
  explicit Inquiry(Exploration& exploration)
      : exploration_(&exploration),
        network_(std::make_unique<circuit::Network>(exploration.lanes().network().network)) {}

  Exploration& exploration() const { return *exploration_; }
  const circuit::GameNetwork& game() const { return exploration_->lanes().network(); }
  // Gates may be added; stays where it is when the inquiry is moved.
  circuit::Network& network() const { return *network_; }

  // Copies signals of the game with a joint move made, a number for each role, or none if null; and
  // the fluents that hold after one.
  circuit::Copier with_moves(const std::vector<std::uint32_t>* joint) const;
  std::vector<Signal> next_after(const std::vector<std::uint32_t>& joint) const;

 private:
  Exploration* exploration_;
  std::unique_ptr<circuit::Network> network_;
};

class Findings;

// What is looked out for, by number.
struct Watches {
  struct SuggestedGroup {
    prove::FluentGroup group;
    std::size_t several = 0;  // the number of its watch
    std::size_t none = 0;
  };
  std::vector<Signal> signals;
  std::vector<std::size_t> faults;      // that no position should show
  std::vector<std::size_t> hopes;       // that some position should show
  std::vector<std::size_t> hints;       // that may help to prove them, or be proved then
  std::vector<SuggestedGroup> groups;   // nothing where every position is explored
  std::vector<prove::SumSuspect> sums;  // of fluents, that seem to stay what they are
};

class Watchlist : public Inquiry {
 public:
  using Inquiry::Inquiry;

  // Looks out for positions in which a signal holds; its number for `Findings::sighting`.
  std::size_t watch(Signal signal) {
    watches_.signals.push_back(signal);
    return watches_.signals.size() - 1;
  }
  // The same of a signal that no position should show, where proofs may help one another.
  std::size_t watch_fault(Signal signal) {
    watches_.faults.push_back(watches_.signals.size());
    return watch(signal);
  }
  // The same of one that some position should show: if none does, that may be proved too.
  std::size_t watch_hope(Signal signal) {
    watches_.hints.push_back(watches_.signals.size());
    watches_.hopes.push_back(watches_.signals.size());
    return watch(signal);
  }

  // Looks for all of it in one pass, and for what may help proofs. `solution`: best play, if known.
  Findings look(std::optional<Solution> solution = {}) &&;

 private:
  friend class Findings;
  void watch_what_helps_proofs();

  Watches watches_;
};

class Findings : public Inquiry {
 public:
  const Exploration::Sighting& sighting(std::size_t number) const { return sightings_[number]; }

  // Where not every position is explored: whether a signal on watch is proved to hold in no
  // reachable position, by induction over the plies. Worked out at the first call.
  bool never(std::size_t number);
  bool is_never(Signal signal);
  // Whether of no joint move what is wrong with it can hold where the move is made, as far as every
  // joint move can be looked at by itself. Gates may be added to the network given to `wrong`.
  using WrongStep = std::function<Signal(const prove::SingleStep&, circuit::Network&)>;
  bool never_in_steps(const WrongStep& wrong);
  // And a proof that every line of play ends; none if none was found.
  const std::optional<prove::EndingProof>& ending_proof();

  // From now on it is this question, or this claim, that asks.
  void answering(std::string id) { asks_ = std::move(id); }
  // What was proved never to hold for one of them.
  const std::vector<Signal>& relied_on(const std::string& id) { return relied_on_[id]; }
  // Whether an answer to it rests on single steps or measures, for which there is no certificate.
  bool rests_on_steps(const std::string& id) const { return rests_on_steps_.contains(id); }
  // What all proofs rest on: an inductive set.
  std::vector<Signal> invariants();

  Facts& facts() { return facts_; }

 private:
  friend class Watchlist;
  Findings(Inquiry&& inquiry, Watches&& watches, std::optional<Solution> solution);
  prove::Induction& induction();
  bool is_whole(const prove::FluentGroup& group) const;
  bool is_excluded(Signal signal);
  void prove_by_single_steps();
  void work_out_what_is_open();

  Watches watches_;
  Facts facts_;
  std::vector<Exploration::Sighting> sightings_;
  std::unique_ptr<prove::Induction> induction_;
  std::unique_ptr<prove::StepInduction> by_steps_;  // null if moves are too many
  std::vector<std::optional<bool>> never_;          // by watch, once asked
  std::vector<Signal> further_invariants_;          // of what was worked out backwards
  std::string asks_;
  std::map<std::string, std::vector<Signal>> relied_on_;  // by who asked
  std::set<std::string> rests_on_steps_;
  std::optional<std::optional<prove::EndingProof>> ending_proof_;
};

// A question: what it wants watched, and what it makes of the findings. No conclusion if it does
// not apply to the game.
using Conclusion = std::function<std::vector<Answer>(Findings&)>;
using Question = Conclusion (*)(Watchlist&);

// Something that should be found nowhere.
struct Watched {
  std::string what;
  std::size_t number = 0;  // of its watch
};
// The one that shows after the fewest plies; null if none does.
const Watched* soonest(const Findings& findings, const std::vector<Watched>& watched);

std::string plies_text(std::size_t count);                  // "1 ply", "2 plies"
std::string joined(const std::vector<std::string>& names);  // "ann, bob and cas"
std::string joined_roles(const Exploration& exploration, const std::vector<std::size_t>& roles);

// What is said of a question that the budget of the review left open.
Answer left_open(std::string id, const Interrupted& interrupted);

// A failure met at a place.
Answer failure(const Findings& findings, std::string id, const Exploration::Sighting& sighting,
               Evidence evidence);
// What was looked for was found nowhere: it holds if every position was looked at or a proof is
// found, else it is unknown beyond. The evidence is `what` and how far that reaches.
Answer nowhere(Findings& findings, std::string id, std::string what,
               const std::vector<Watched>& watched);

}  // namespace orchard::review
