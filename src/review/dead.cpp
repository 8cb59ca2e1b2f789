// Parts of the rules that never take part: clauses, moves, fluents.
#include <fmt/core.h>

#include <algorithm>

#include "review/inquiry.hpp"

namespace orchard::review {

namespace {

// For each clause of the description the disjunction of its instances' bodies; `always` where what
// it gives does not change during play.
std::vector<Signal> clause_signals(Inquiry& inquiry) {
  const ground::GroundProgram& ground = inquiry.exploration().ground();
  const std::size_t count = ground.description().clauses().size();
  std::vector<std::vector<std::vector<Signal>>> bodies(count);
  for (const ground::GroundClause& clause : ground.clauses()) {
    if (ground.is_part(clause.head)) continue;  // what it derives stands in the body of another
    std::vector<Signal>& body = bodies[clause.clause].emplace_back();
    for (const auto atom : ground.positive(clause)) {
      body.push_back(inquiry.game().atoms[ground::index_of(atom)]);
    }
    for (const auto atom : ground.negative(clause)) {
      if (atom == ground::no_atom) continue;
      body.push_back(!inquiry.game().atoms[ground::index_of(atom)]);
    }
  }
  std::vector<Signal> result;
  for (std::size_t c = 0; c < count; ++c) {
    const bool constant = ground.is_constant(ground.description().clauses()[c].head.relation);
    result.push_back(constant ? circuit::always
                              : inquiry.network().any_of_all(std::move(bodies[c])));
  }
  return result;
}

// Which signals hold in some position with some joint move: at random first, then, for those not
// met, in every explored step. False for steps if there are too many.
class Meeting {
 public:
  Meeting(Exploration& exploration, const circuit::Network& network, std::vector<Signal> signals)
      : exploration_(exploration), network_(network), signals_(std::move(signals)) {
    for (const Signal signal : signals_) met_.push_back(signal == circuit::always);
  }

  std::vector<bool> run() {
    meet_at_random();
    if (exploration_.complete()) meet_everywhere();
    return met_;
  }

 private:
  void note(const explore::Watch& watch, const std::vector<std::size_t>& which) {
    for (std::size_t s = 0; s < which.size(); ++s) {
      if (watch.count(s) > 0) met_[which[s]] = true;
    }
  }
  std::vector<std::size_t> missing() const {
    std::vector<std::size_t> result;
    for (std::size_t s = 0; s < met_.size(); ++s) {
      if (!met_[s] && signals_[s] != circuit::never) result.push_back(s);
    }
    return result;
  }
  std::vector<Signal> signals_of(const std::vector<std::size_t>& which) const {
    std::vector<Signal> result;
    for (const std::size_t s : which) result.push_back(signals_[s]);
    return result;
  }

  void meet_at_random() {
    const std::vector<std::size_t> which = missing();
    explore::Watch watch(exploration_.lanes(), network_, signals_of(which));
    Random random = Random::stream(1, 1);
    std::vector<std::uint32_t> legal;
    std::vector<std::uint32_t> joint;
    const std::size_t roles = exploration_.space().roles();
    exploration_.sample([&](std::span<const std::uint64_t> rows,
                            std::span<const SampledGames::Place> places,
                            const LaneEvaluator& lanes) {
      for (std::size_t at = 0; at < places.size(); ++at) {
        joint.clear();
        for (std::size_t role = 0; role < roles && !lanes.terminal(at); ++role) {
          lanes.legal(at, role, legal);
          if (legal.empty()) break;
          joint.push_back(legal[random.below(legal.size())]);
        }
        if (joint.size() < roles) joint.clear();
        watch.set_joint(at, joint);
      }
      watch.look(rows, places.size());
      note(watch, which);
    });
  }

  void meet_everywhere() {
    const std::vector<std::size_t> which = missing();
    if (which.empty()) return;
    explore::Watch watch(exploration_.lanes(), network_, signals_of(which));
    exploration_.look_at_steps(
        watch, [&](std::span<const Exploration::StepPlace>) { note(watch, which); });
  }

  Exploration& exploration_;
  const circuit::Network& network_;
  std::vector<Signal> signals_;
  std::vector<bool> met_;
};

}  // namespace

const std::vector<ClauseUse>& Inquiry::clause_use() {
  if (clause_use_) return *clause_use_;
  // Of the game itself: what claims add stands behind.
  const rules::Description& description =
      GameAccess::core(exploration_.game())->program().description();
  std::vector<Signal> signals = clause_signals(*this);
  signals.resize(description.clauses().size());
  const std::vector<bool> met = Meeting(exploration_, network_, std::move(signals)).run();
  std::vector<ClauseUse>& result = clause_use_.emplace();
  for (std::size_t c = 0; c < met.size(); ++c) {
    const rules::Clause& clause = description.clauses()[c];
    result.push_back({description.place(description.rules()[clause.rule].node), met[c]});
  }
  return result;
}

Conclusion ask_dead(Inquiry& inquiry) {
  const Exploration& exploration = inquiry.exploration();
  std::vector<Watched> moves;
  for (std::size_t role = 0; role < exploration.ground().moves().size(); ++role) {
    for (std::size_t m = 0; m < exploration.ground().moves()[role].size(); ++m) {
      const TermId term = exploration.ground().moves()[role][m].term;
      moves.push_back({fmt::format("{} of {}", exploration.ground().terms().text(term),
                                   exploration.game().roles()[role].name()),
                       inquiry.watch(inquiry.game().legal[role][m])});
    }
  }
  return [&inquiry, &exploration, moves] {
    std::vector<Note> unused;
    const std::vector<ClauseUse>& clauses = inquiry.clause_use();
    for (const ClauseUse& clause : clauses) {
      if (!clause.used) unused.push_back({clause.place, "this rule never takes part"});
    }
    std::vector<std::string> never_legal;
    for (const Watched& move : moves) {
      if (!inquiry.sighting(move.number).first) never_legal.push_back(move.what);
    }
    if (unused.empty() && never_legal.empty()) {
      return std::vector{Answer{
          "dead", Verdict::holds,
          fmt::format("all {} clauses and {} moves take part", clauses.size(), moves.size())}};
    }
    std::string evidence;
    if (!unused.empty()) {
      evidence = fmt::format("{} of {} clauses never take{} part", unused.size(), clauses.size(),
                             unused.size() == 1 ? "s" : "");
    }
    if (!never_legal.empty()) {
      evidence +=
          fmt::format("{}{} of {} moves {} never legal: ", evidence.empty() ? "" : "; ",
                      never_legal.size(), moves.size(), never_legal.size() == 1 ? "is" : "are");
      constexpr std::size_t most_named = 5;
      for (std::size_t i = 0; i < std::min(never_legal.size(), most_named); ++i) {
        evidence += (i == 0 ? "" : ", ") + never_legal[i];
      }
      if (never_legal.size() > most_named) evidence += " …";
    }
    evidence += ", " + exploration.extent();
    Answer answer{"dead", exploration.complete() ? Verdict::suspicious : Verdict::unknown,
                  evidence};
    answer.places = std::move(unused);
    return std::vector{answer};
  };
}

}  // namespace orchard::review
