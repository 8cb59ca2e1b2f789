#include "review/inquiry/facts.hpp"

#include "review/inquiry/meeting.hpp"

namespace orchard::review {

const EndOrder& Facts::ends() {
  if (!ends_) ends_ = end_order(exploration_->space());
  return *ends_;
}

namespace {

// For each clause of the description the disjunction of its instances' bodies; `always` where what
// it gives does not change during play.
std::vector<Signal> clause_signals(const Exploration& exploration, circuit::Network& network) {
  const ground::GroundProgram& ground = exploration.ground();
  const std::size_t count = ground.description().clauses().size();
  std::vector<std::vector<std::vector<Signal>>> bodies(count);
  for (const ground::GroundClause& clause : ground.clauses()) {
    if (ground.is_part(clause.head)) continue;  // what it derives stands in the body of another
    std::vector<Signal>& body = bodies[clause.clause].emplace_back();
    for (const auto atom : ground.positive(clause)) {
      body.push_back(exploration.lanes().network().atoms[ground::index_of(atom)]);
    }
    for (const auto atom : ground.negative(clause)) {
      if (atom == ground::no_atom) continue;
      body.push_back(!exploration.lanes().network().atoms[ground::index_of(atom)]);
    }
  }
  std::vector<Signal> result;
  for (std::size_t c = 0; c < count; ++c) {
    const bool constant = ground.is_constant(ground.description().clauses()[c].head.relation);
    result.push_back(constant ? circuit::always : network.any_of_all(bodies[c]));
  }
  return result;
}

}  // namespace

const std::vector<ClauseUse>& Facts::clause_use() {
  if (clause_use_) return *clause_use_;
  circuit::Network network(exploration_->lanes().network().network);
  // Of the game itself: what claims add stands behind.
  const rules::Description& description =
      GameAccess::core(exploration_->game())->program().description();
  std::vector<Signal> signals = clause_signals(*exploration_, network);
  signals.resize(description.clauses().size());
  const std::vector<bool> met = which_are_met(*exploration_, network, signals);
  std::vector<ClauseUse>& result = clause_use_.emplace();
  for (std::size_t c = 0; c < met.size(); ++c) {
    const rules::Clause& clause = description.clauses()[c];
    result.push_back({description.place(description.rules()[clause.rule].node), met[c]});
  }
  return result;
}

const Result<PlayoutStatistics>& Facts::random_play() {
  if (!random_play_) {
    PlayoutOptions options;
    options.games = 10'000;
    options.plies = 1'000;
    random_play_ = run_playouts(exploration_->game(), options);
  }
  return *random_play_;
}

const std::optional<Solution>& Facts::best_play() {
  if (best_play_) return *best_play_;
  constexpr StateSpace::Number most = 400'000;
  best_play_.emplace();
  if (!exploration_->complete() || exploration_->space().positions() > most) return *best_play_;
  SolveOptions options;
  options.budget.positions = most + 1;
  options.way = SolveOptions::Way::all;
  auto solution = solve(exploration_->game(), options);
  if (solution && solution->complete()) *best_play_ = *solution;
  return *best_play_;
}

}  // namespace orchard::review
