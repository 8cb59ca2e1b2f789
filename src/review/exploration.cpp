#include "review/exploration.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <bit>
#include <stdexcept>

#include "explore/joint_moves.hpp"

namespace orchard::review {

namespace {

std::vector<std::uint64_t> start_row(const Game& game) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes();
  const auto bits = lanes.bits(GameAccess::state(game.initial()).fluents());
  return lanes.row(bits.value());
}

}  // namespace

Exploration::Exploration(const Game& game, const Game& explored, std::uint64_t seed)
    : game_(game),
      explored_(explored),
      lanes_(*GameAccess::core(explored)->lanes()),
      start_(start_row(explored)),
      space_(lanes_),
      seed_(seed) {}

Diagnostics Exploration::explore(const Budget& budget, unsigned threads) {
  constexpr std::uint64_t usual_bits = 60'000'000;
  constexpr std::uint64_t usual_coded = 10'000'000;
  const Stopwatch clock(budget);
  const Budget limits = with_defaults(budget);
  const auto ending = space_.explore(start_, limits, threads);
  if (!ending) return ending.diagnostics();
  ending_ = *ending;
  threads_ = threads;
  sweep_budget_ = limits;
  most_swept_ = {budget.positions.value_or(usual_bits), budget.positions.value_or(usual_coded)};
  if (limits.seconds) sweep_budget_.seconds = std::max(*limits.seconds - clock.seconds(), 0.0);
  return {};
}

// How many positions the depth behind the last one that is known whole has, if it grows as that one
// did.
double Exploration::layer_beyond() const {
  const auto& firsts = space_.depths();
  const auto layer = [&](std::size_t depth) {
    const StateSpace::Number end = depth + 1 < firsts.size() ? firsts[depth + 1] : space_.size();
    return static_cast<double>(end - firsts[depth]);
  };
  std::size_t whole = firsts.size() - 1;
  while (whole > 0 && firsts[whole] > space_.expanded()) --whole;
  return whole > 0 ? layer(whole) * layer(whole) / layer(whole - 1) : 0;
}

void Exploration::sweep(const circuit::Network& network, const std::vector<Signal>& signals,
                        std::vector<Sighting>& sightings) {
  const bool too_many = ending_ == Ending::positions || ending_ == Ending::memory;
  explore::Sweep::Most most = most_swept_;
  if (layer_beyond() > static_cast<double>(most.coded)) most.coded = 0;  // it would be in vain
  if (!too_many || most.bits <= space_.size()) return;
  sweep_ = explore::Sweep::run(lanes_, start_, {&network, signals}, sweep_budget_, most, threads_);
  if (!sweep_) return;
  for (std::size_t s = 0; s < sightings.size(); ++s) {
    const Beyond& seen = sweep_->sightings()[s];
    sightings[s].count = seen.count;
    if (!sightings[s].first && seen.count > 0) sightings[s].first = Spot(seen);
  }
}

std::vector<Exploration::Sighting> Exploration::look(const circuit::Network& network,
                                                     std::vector<Signal> signals) {
  std::vector<Sighting> result(signals.size());
  explore::Watch watch(lanes_, network, signals);
  constexpr std::size_t most = LaneEvaluator::most;
  for (StateSpace::Number first = 0; first < space_.size(); first += most) {
    const std::size_t count = std::min<std::size_t>(most, space_.size() - first);
    watch.look(space_.rows(first, count), count);
    for (std::size_t s = 0; s < result.size(); ++s) {
      const std::uint64_t here = watch.count(s);
      if (here == 0) continue;
      result[s].count += here;
      if (result[s].first) continue;
      StateSpace::Number at = 0;
      while (!watch.holds(s, at)) ++at;
      result[s].first = Spot(first + at);
    }
  }
  if (!complete()) sweep(network, signals, result);
  if (looked_at_all()) return result;
  sample([&](std::span<const std::uint64_t> rows, std::span<const SampledGames::Place> places,
             const LaneEvaluator&) {
    watch.look(rows, places.size());
    for (std::size_t s = 0; s < result.size(); ++s) {
      if (result[s].first || watch.count(s) == 0) continue;
      std::size_t at = 0;
      while (!watch.holds(s, at)) ++at;
      result[s].first = Spot(places[at]);
    }
  });
  return result;
}

void Exploration::look_at_steps(
    explore::Watch& watch, const std::function<void(std::span<const StepPlace>)>& visit) const {
  LaneEvaluator lanes(lanes_);
  std::vector<std::vector<std::uint32_t>> legal(space_.roles());
  std::vector<std::uint64_t> rows;
  std::vector<StepPlace> places;
  const auto flush = [&] {
    if (places.empty()) return;
    watch.look(rows, places.size());
    visit(places);
    rows.clear();
    places.clear();
  };
  const auto add = [&](StepPlace place, std::span<const std::uint32_t> joint) {
    const auto row = space_.row(place.position);
    rows.insert(rows.end(), row.begin(), row.end());
    watch.set_joint(places.size(), joint);
    places.push_back(place);
    if (places.size() == LaneEvaluator::most) flush();
  };
  for (StateSpace::Number first = 0; first < space_.size(); first += LaneEvaluator::most) {
    const std::size_t block = std::min<std::size_t>(LaneEvaluator::most, space_.size() - first);
    lanes.set_positions(space_.rows(first, block), block);
    for (std::size_t at = 0; at < block; ++at) {
      const auto position = static_cast<StateSpace::Number>(first + at);
      if (position >= space_.expanded() || space_.kind(position) != StateSpace::Kind::open) {
        add({position, StepPlace::no_step}, {});
        continue;
      }
      for (std::size_t role = 0; role < legal.size(); ++role) lanes.legal(at, role, legal[role]);
      std::size_t step = 0;
      explore::each_joint_move(legal, [&](const std::vector<std::uint32_t>& joint) {
        add({position, step++}, joint);
      });
    }
  }
  flush();
}

void Exploration::sample(const SampleVisit& visit) {
  constexpr std::size_t most_plies = 400;
  constexpr std::size_t enough_plies = 100'000;  // in all games
  samples_ = std::make_unique<SampledGames>(lanes_);
  Random random = Random::stream(seed_, 0);
  std::size_t plies = 0;
  for (std::size_t batch = 0; batch < sample_batches && plies < enough_plies; ++batch) {
    samples_->play(LaneEvaluator::most, start_, random, most_plies,
                   [&](std::span<const std::uint64_t> rows,
                       std::span<const SampledGames::Place> places, const LaneEvaluator& lanes) {
                     plies += places.size();
                     visit(rows, places, lanes);
                   });
  }
}

Line Exploration::replay(const std::vector<JointMove>& joints) const {
  const GameCore& core = *GameAccess::core(game_);
  GameCore::Lease reference(core, true);
  Line line{{game_.initial()}, {}};
  for (const JointMove& joint : joints) {
    const auto next = game_.next(line.last(), joint);
    if (!next)
      throw std::logic_error("a line that was found cannot be played: " +
                             next.diagnostics().render());
    std::vector<TermId> moves;
    for (const Move& move : joint) moves.push_back(GameAccess::id(move));
    reference->set_position(GameAccess::state(line.last()).fluents());
    const auto legal = reference->legal();
    bool same = !reference->terminal();
    for (std::size_t role = 0; role < moves.size(); ++role) {
      same = same && std::ranges::find(legal[role], moves[role]) != legal[role].end();
    }
    reference->set_joint_move(moves);
    if (!same || reference->next() != GameAccess::state(*next).fluents()) {
      throw std::logic_error("the circuit and the reference evaluator disagree about " +
                             joint.to_string());
    }
    line.joints.push_back(joint);
    line.positions.push_back(*next);
  }
  return line;
}

std::vector<std::uint32_t> Exploration::joint_of(
    const std::vector<std::vector<std::uint32_t>>& legal, std::size_t step) const {
  const auto choices = explore::choices_of_joint_move(
      step, legal.size(), [&](std::size_t role) { return legal[role].size(); });
  std::vector<std::uint32_t> joint(legal.size());
  for (std::size_t role = 0; role < legal.size(); ++role) joint[role] = legal[role][choices[role]];
  return joint;
}

Line Exploration::line_through(const std::vector<StateSpace::Number>& positions) const {
  std::vector<JointMove> joints;
  LaneEvaluator evaluator(lanes_);
  std::vector<std::vector<std::uint32_t>> legal(space_.roles());
  for (std::size_t ply = 0; ply + 1 < positions.size(); ++ply) {
    const auto next = space_.steps(positions[ply]);
    const auto step =
        static_cast<std::size_t>(std::ranges::find(next, positions[ply + 1]) - next.begin());
    evaluator.set_positions(space_.row(positions[ply]), 1);
    for (std::size_t role = 0; role < legal.size(); ++role) evaluator.legal(0, role, legal[role]);
    joints.push_back(joint_move(joint_of(legal, step)));
  }
  return replay(joints);
}

JointMove Exploration::joint_move(std::span<const std::uint32_t> numbers) const {
  JointMove joint;
  for (std::size_t role = 0; role < numbers.size(); ++role) {
    const TermId term = ground().moves()[role][numbers[role]].term;
    joint.add(game_.move(ground().terms().term(term)));
  }
  return joint;
}

Line Exploration::line_to(const Spot& spot) const {
  if (const auto* position = std::get_if<StateSpace::Number>(&spot)) {
    return line_through(space_.line_to(*position));
  }
  std::vector<JointMove> joints;
  for (const auto& numbers : joints_to(spot)) joints.push_back(joint_move(numbers));
  return replay(joints);
}

std::vector<std::vector<std::uint32_t>> Exploration::joints_to(const Spot& spot) const {
  const auto* const beyond = std::get_if<Beyond>(&spot);
  return beyond != nullptr ? sweep_->line_to(*beyond)
                           : samples_->line_to(std::get<SampledGames::Place>(spot));
}

Line Exploration::line_to(const Spot& spot, const LastMove& last) const {
  std::vector<JointMove> joints;
  std::vector<std::uint64_t> row = start_;
  if (const auto* position = std::get_if<StateSpace::Number>(&spot)) {
    joints = line_to(spot).joints;
    row.assign(space_.row(*position).begin(), space_.row(*position).end());
  } else {
    LaneEvaluator evaluator(lanes_);
    for (const auto& numbers : joints_to(spot)) {
      joints.push_back(joint_move(numbers));
      evaluator.load(row, 1);
      evaluator.set_joint(0, numbers);
      evaluator.step();
      row.assign(evaluator.next(0).begin(), evaluator.next(0).end());
    }
  }
  if (const auto numbers = last(row)) joints.push_back(joint_move(*numbers));
  return replay(joints);
}

Line Exploration::continued(const Line& line, const JointMove& joint) const {
  std::vector<JointMove> joints = line.joints;
  joints.push_back(joint);
  return replay(joints);
}

std::uint64_t Exploration::depth_of(const Spot& spot) const {
  if (const auto* position = std::get_if<StateSpace::Number>(&spot)) return space_.depth(*position);
  if (const auto* beyond = std::get_if<Beyond>(&spot)) return beyond->depth;
  return std::get<SampledGames::Place>(spot).ply;
}

std::string Exploration::extent() const {
  return looked_at_all() ? fmt::format("in all {} positions", positions()) : extent_of_steps();
}

std::string Exploration::extent_of_steps() const {
  return complete() ? fmt::format("in all {} positions", space_.size()) : "as far as was looked";
}

Budget with_defaults(Budget budget) {
  constexpr std::uint64_t usual_positions = 3'000'000;
  if (!budget.positions) budget.positions = usual_positions;
  if (!budget.memory_bytes) budget.memory_bytes = half_of_memory();
  return budget;
}

}  // namespace orchard::review
