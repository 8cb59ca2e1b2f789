#include "review/inquiry/exploration.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <bit>
#include <stdexcept>
#include <utility>

#include "base/interruption.hpp"
#include "circuit/lanes/pieces.hpp"
#include "explore/sampling/joint_moves.hpp"
#include "threads/crew.hpp"

namespace orchard::review {

namespace {

std::vector<std::uint64_t> start_row(const Game& game) {
  const LaneGame& lanes = *GameAccess::core(game)->lanes_near_start();
  const auto bits = lanes.bits(GameAccess::state(game.initial()).fluents());
  return lanes.row(bits.value());
}

}  // namespace

Exploration::Exploration(const Game& game, const Game& explored, std::uint64_t seed)
    : game_(game),
      explored_(explored),
      lanes_(*GameAccess::core(explored)->lanes_near_start()),
      start_(start_row(explored)),
      space_(std::make_unique<StateSpace>(lanes_)),
      seed_(seed) {}

// The renamings that leave the rules as they are, if with them a third of the positions found last
// need not be kept.
explore::SymmetryGroup Exploration::useful_symmetry() const {
  auto group = explore::SymmetryGroup::of(*GameAccess::core(game_)->lanes(), lanes_, start_);
  if (group.size() == 1) return group;
  // Renaming a position takes time by the square of its words.
  constexpr std::size_t most_work = 1 << 26;
  constexpr std::size_t least = 500;
  constexpr std::size_t most = 10'000;
  const std::size_t each = 16 * space_->words() * space_->words() * group.size();
  const auto looked_at = static_cast<StateSpace::Number>(std::clamp(most_work / each, least, most));
  const StateSpace::Number first = space_->size() - std::min(space_->size(), looked_at);
  double classes = 0;
  for (StateSpace::Number p = first; p < space_->size(); ++p) {
    end_if_interrupted();
    classes += std::popcount(group.stabilizer(space_->row(p)));
  }
  classes /= static_cast<double>(group.size());
  return 1.5 * classes <= space_->size() - first ? group : explore::SymmetryGroup{};
}

Diagnostics Exploration::explore(const Budget& budget, unsigned threads,
                                 ReviewOptions::Symmetry symmetry) {
  using Symmetry = ReviewOptions::Symmetry;
  constexpr std::uint64_t usual_bits = 60'000'000;
  constexpr std::uint64_t usual_coded = 10'000'000;
  constexpr std::uint64_t few = 300'000;  // positions that are kept all the same
  const Stopwatch clock(budget);
  const Budget limits = with_defaults(budget);
  const auto left = [&](Budget part) {
    if (limits.seconds) part.seconds = std::max(*limits.seconds - clock.seconds(), 0.0);
    return part;
  };
  const auto all_symmetry = [&] {
    return explore::SymmetryGroup::of(*GameAccess::core(game_)->lanes(), lanes_, start_);
  };
  const auto near_start = GameAccess::core(game_)->exact_plies();
  if (near_start) {
    space_->end_at_depth(*near_start);
    keep_to_explored();
    symmetry = Symmetry::never;
  }
  bool goes_on = true;
  bool either = false;  // what is saved, of classes or of all positions, is resumed
  if (symmetry == Symmetry::always) {
    space_ = std::make_unique<StateSpace>(lanes_, all_symmetry());
  } else if (symmetry == Symmetry::automatic && limits.checkpoint &&
             StateSpace::is_saved(limits.checkpoint->folder)) {
    either = true;
  } else if (symmetry == Symmetry::automatic && (*limits.positions > few || limits.checkpoint)) {
    Budget first = limits;
    first.positions = few;
    first.checkpoint.reset();
    const auto ending = space_->explore(start_, first, threads);
    if (!ending) return ending.diagnostics();
    ending_ = *ending;
    const bool interrupted = ending_ == Ending::time || ending_ == Ending::stopped;
    goes_on = ending_ == Ending::positions || (limits.checkpoint && !interrupted);
    explore::SymmetryGroup group;
    try {
      if (ending_ == Ending::positions) group = useful_symmetry();
    } catch (const Interrupted& while_choosing) {
      ending_ = while_choosing.ending;
      goes_on = false;
    }
    if (goes_on && (group.size() > 1 || limits.checkpoint)) {
      space_ = std::make_unique<StateSpace>(lanes_, std::move(group));
    }
  }
  if (goes_on) {
    auto ending = space_->explore(start_, left(limits), threads);
    if (!ending && either && ending.diagnostics().begin()->code == "other-state") {
      const bool classes = space_->stride() == 1;
      auto other =
          std::make_unique<StateSpace>(lanes_, classes ? all_symmetry() : explore::SymmetryGroup{});
      if (auto of_other = other->explore(start_, left(limits), threads)) {
        ending = std::move(of_other);
        space_ = std::move(other);
      }
    }
    if (!ending) return ending.diagnostics();
    ending_ = *ending;
  }
  threads_ = std::max(1u, threads);
  sweep_budget_ = left(limits);
  most_swept_ = {budget.positions.value_or(usual_bits), budget.positions.value_or(usual_coded)};
  return {};
}

StateSpace::Number Exploration::end_of_layer(std::size_t depth) const {
  const auto& firsts = space_->depths();
  return depth + 1 < firsts.size() ? firsts[depth + 1] : space_->size();
}

std::size_t Exploration::last_whole_layer() const {
  std::size_t depth = space_->depths().size() - 1;
  while (depth > 0 && space_->depths()[depth] > space_->expanded()) --depth;
  return depth;
}

// How many positions the depth behind the last one that is known whole has, if it grows as that one
// did.
double Exploration::layer_beyond() const {
  const auto layer = [&](std::size_t depth) {
    return static_cast<double>(space_->positions(space_->depths()[depth], end_of_layer(depth)));
  };
  const std::size_t whole = last_whole_layer();
  return whole > 0 ? layer(whole) * layer(whole) / layer(whole - 1) : 0;
}

void Exploration::sweep(const circuit::Network& network, const std::vector<Signal>& signals,
                        std::vector<Sighting>& sightings) {
  const bool too_many = ending_ == Ending::positions || ending_ == Ending::memory;
  explore::Sweep::Most most = most_swept_;
  if (layer_beyond() > static_cast<double>(most.coded)) most.coded = 0;  // it would be in vain
  if (!too_many || most.bits <= space_->positions()) return;
  sweep_ = explore::Sweep::run(lanes_, start_, {&network, signals}, sweep_budget_, most, threads_);
  if (!sweep_) return;
  // One that its budget ended is worth something if it went further.
  if (!sweep_->complete() && sweep_->depths().size() - 1 <= last_whole_layer()) {
    sweep_ = nullptr;
    return;
  }
  for (std::size_t s = 0; s < sightings.size(); ++s) {
    const Beyond& seen = sweep_->sightings()[s];
    sightings[s].count = seen.count;
    if (!sightings[s].first && seen.count > 0) sightings[s].first = Spot(seen);
  }
}

void Exploration::look_at_positions(const explore::Watch& watch,
                                    const PositionsVisit& visit) const {
  constexpr StateSpace::Number piece = 16 * static_cast<StateSpace::Number>(circuit::lanes);
  static_assert(piece % numbers_apart == 0);
  const std::size_t pieces = (space_->classes() + piece - 1) / piece;
  Crew crew(threads_);
  std::vector<explore::Watch> watches(crew.workers(), watch);
  crew.work(pieces, [&](std::size_t worker, std::size_t job) {
    const auto begin = static_cast<StateSpace::Number>(job) * piece;
    space_->each_block(begin, std::min(begin + piece, space_->classes()),
                       [&](StateSpace::Row rows, std::span<const StateSpace::Number> positions) {
                         end_if_interrupted();
                         watches[worker].look(rows, positions.size());
                         visit(worker, watches[worker], positions);
                       });
  });
}

std::vector<Exploration::Sighting> Exploration::look_at_explored(const explore::Watch& watch) {
  struct Seen {
    std::uint64_t count = 0;
    std::optional<StateSpace::Number> first;  // the least of them
  };
  std::vector<std::vector<Seen>> by_worker(threads_, std::vector<Seen>(watch.signals()));
  try {
    look_at_positions(watch, [&](std::size_t worker, const explore::Watch& own,
                                 std::span<const StateSpace::Number> positions) {
      for (std::size_t s = 0; s < own.signals(); ++s) {
        const std::uint64_t here = own.count(s);
        if (here == 0) continue;
        Seen& seen = by_worker[worker][s];
        seen.count += here;
        const StateSpace::Number first = positions[own.first(s)];
        seen.first = std::min(first, seen.first.value_or(first));
      }
    });
  } catch (const Interrupted&) {
    cut_short_ = true;
  }
  std::vector<Sighting> result(watch.signals());
  for (std::size_t s = 0; s < result.size(); ++s) {
    std::optional<StateSpace::Number> first;
    for (const auto& seen : by_worker) {
      result[s].count += seen[s].count;
      if (seen[s].first) first = std::min(*seen[s].first, first.value_or(*seen[s].first));
    }
    if (first) result[s].first = Spot(*first);
  }
  return result;
}

std::vector<Exploration::Sighting> Exploration::look(const circuit::Network& network,
                                                     std::vector<Signal> signals) {
  explore::Watch watch(lanes_, network, signals);
  std::vector<Sighting> result = look_at_explored(watch);
  if (keeps_to_explored_ || cut_short_) return result;
  if (!complete()) sweep(network, signals, result);
  if (looked_at_all()) return result;
  sample([&](std::span<const std::uint64_t> rows, std::span<const SampledGames::Place> places,
             const LaneEvaluator&) {
    watch.look(rows, places.size());
    for (std::size_t s = 0; s < result.size(); ++s) {
      if (result[s].first || watch.count(s) == 0) continue;
      result[s].first = Spot(places[watch.first(s)]);
    }
  });
  return result;
}

void Exploration::look_at_steps(
    explore::Watch& watch, const std::function<void(std::span<const StepPlace>)>& visit) const {
  LaneEvaluator lanes(lanes_);
  const explore::SymmetryGroup& symmetry = space_->symmetry();
  std::vector<std::vector<std::uint32_t>> legal(space_->roles());
  std::vector<std::uint32_t> renamed(space_->roles());
  std::vector<std::uint64_t> rows;
  auto gathered = circuit::gathered<StepPlace>([&](std::span<const StepPlace> places) {
    end_if_interrupted();
    watch.look(rows, places.size());
    visit(places);
    rows.clear();
  });
  const auto add = [&](StepPlace place, StateSpace::Row row, std::span<const std::uint32_t> joint) {
    rows.insert(rows.end(), row.begin(), row.end());
    watch.set_joint(gathered.waiting(), joint);
    gathered.add(place);
  };
  const std::size_t words = space_->words();
  space_->each_block([&](StateSpace::Row block, std::span<const StateSpace::Number> positions) {
    // Of a class the position kept comes first, and what is legal in it.
    lanes.set_positions(block, positions.size());
    std::size_t kept = 0;
    for (std::size_t at = 0; at < positions.size(); ++at) {
      const StateSpace::Number position = positions[at];
      const auto row = block.subspan(at * words, words);
      const auto element = space_->element(position);
      if (element == 0) kept = at;
      if (position >= space_->expanded() || space_->kind(position) != StateSpace::Kind::open) {
        add({position, StepPlace::no_step}, row, {});
        continue;
      }
      for (std::size_t role = 0; role < legal.size(); ++role) lanes.legal(kept, role, legal[role]);
      std::size_t step = 0;
      explore::each_joint_move(legal, [&](const std::vector<std::uint32_t>& joint) {
        for (std::size_t role = 0; role < joint.size(); ++role) {
          renamed[role] = symmetry.move(element, role, joint[role]);
        }
        add({position, step++}, row, renamed);
      });
    }
  });
  gathered.finish();
}

void Exploration::sample(const SampleVisit& visit) {
  if (keeps_to_explored_) {
    samples_ = std::make_unique<SampledGames>(lanes_);
    return;
  }
  constexpr std::size_t most_plies = 400;
  constexpr std::size_t enough_plies = 100'000;  // in all games
  // Whoever is interrupted leaves the games of before, which begin as these do: what was seen in
  // them goes on having its line.
  std::unique_ptr<SampledGames> before =
      std::exchange(samples_, std::make_unique<SampledGames>(lanes_));
  Random random = Random::stream(seed_, 0);
  std::size_t plies = 0;
  try {
    for (std::size_t batch = 0; batch < sample_batches && plies < enough_plies; ++batch) {
      end_if_interrupted();
      samples_->play(circuit::lanes, start_, random, most_plies,
                     [&](std::span<const std::uint64_t> rows,
                         std::span<const SampledGames::Place> places, const LaneEvaluator& lanes) {
                       plies += places.size();
                       visit(rows, places, lanes);
                     });
    }
  } catch (const Interrupted&) {
    if (before) samples_ = std::move(before);
    throw;
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

std::vector<std::uint32_t> Exploration::joint_of(const Legal& legal, std::size_t step) const {
  const auto choices = explore::choices_of_joint_move(
      step, legal.size(), [&](std::size_t role) { return legal[role].size(); });
  std::vector<std::uint32_t> joint(legal.size());
  for (std::size_t role = 0; role < legal.size(); ++role) joint[role] = legal[role][choices[role]];
  return joint;
}

Exploration::Legal Exploration::legal_at(StateSpace::Number position,
                                         LaneEvaluator& evaluator) const {
  Legal legal(space_->roles());
  evaluator.set_positions(space_->row(space_->first_of(space_->class_of(position))), 1);
  for (std::size_t role = 0; role < legal.size(); ++role) {
    evaluator.legal(0, role, legal[role]);
    for (std::uint32_t& move : legal[role]) {
      move = space_->symmetry().move(space_->element(position), role, move);
    }
  }
  return legal;
}

Line Exploration::line_through(const std::vector<StateSpace::Number>& positions) const {
  std::vector<JointMove> joints;
  LaneEvaluator evaluator(lanes_);
  for (std::size_t ply = 0; ply + 1 < positions.size(); ++ply) {
    const auto next = space_->steps(positions[ply]);
    const auto step =
        static_cast<std::size_t>(std::ranges::find(next, positions[ply + 1]) - next.begin());
    joints.push_back(joint_move(joint_of(legal_at(positions[ply], evaluator), step)));
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
    return line_through(space_->line_to(*position));
  }
  std::vector<JointMove> joints;
  for (const auto& numbers : joints_to(spot)) joints.push_back(joint_move(numbers));
  return replay(joints);
}

std::vector<std::vector<std::uint32_t>> Exploration::joints_to(const Spot& spot) const {
  if (const auto* const worked_out = std::get_if<WorkedOut>(&spot)) return worked_out->joints;
  const auto* const beyond = std::get_if<Beyond>(&spot);
  return beyond != nullptr ? sweep_->line_to(*beyond)
                           : samples_->line_to(std::get<SampledGames::Place>(spot));
}

Line Exploration::line_to(const Spot& spot, const LastMove& last) const {
  std::vector<JointMove> joints;
  std::vector<std::uint64_t> row = start_;
  if (const auto* position = std::get_if<StateSpace::Number>(&spot)) {
    joints = line_to(spot).joints;
    std::vector<std::uint64_t> made;
    const auto here = space_->row(*position, made);
    row.assign(here.begin(), here.end());
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
  if (const auto* position = std::get_if<StateSpace::Number>(&spot))
    return space_->depth(*position);
  if (const auto* beyond = std::get_if<Beyond>(&spot)) return beyond->depth;
  if (const auto* worked_out = std::get_if<WorkedOut>(&spot)) return worked_out->joints.size();
  return std::get<SampledGames::Place>(spot).ply;
}

Reach Exploration::reach() const {
  if (cut_short_) return {Reach::Kind::some_positions};
  if (looked_at_all()) return {Reach::Kind::every_position, positions()};
  if (sweep_) {
    return {Reach::Kind::depths, sweep_->positions(), sweep_->depths().size() - 1};
  }
  return reach_up_to(last_whole_layer());
}

Reach Exploration::reach_of_steps() const {
  if (cut_short_) return {Reach::Kind::some_positions};
  if (complete()) return {Reach::Kind::every_position, space_->positions()};
  std::size_t depth = space_->depths().size();
  while (depth > 0 && end_of_layer(depth - 1) > space_->expanded()) --depth;
  return depth == 0 ? Reach{Reach::Kind::some_positions} : reach_up_to(depth - 1);
}

Reach Exploration::reach_up_to(std::size_t depth) const {
  return {Reach::Kind::depths, space_->positions(0, end_of_layer(depth)), depth};
}

Budget with_defaults(Budget budget) {
  constexpr std::uint64_t usual_positions = 3'000'000;
  if (!budget.positions) budget.positions = usual_positions;
  if (!budget.memory_bytes) budget.memory_bytes = half_of_memory();
  return budget;
}

}  // namespace orchard::review
