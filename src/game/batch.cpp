#include "orchard/batch.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <bit>

#include "circuit/lanes/pieces.hpp"
#include "game/core.hpp"
#include "game/lane_evaluator.hpp"

namespace orchard {

struct Batch::Inner {
  Inner(const Game& whose, const LaneGame& lanes)
      : game(whose), core(GameAccess::core(whose)), evaluator(lanes), ground(lanes.ground()) {}

  const Game game;
  const std::shared_ptr<const GameCore> core;
  LaneEvaluator evaluator;
  const ground::GroundProgram& ground;
  std::size_t size = 0;
  std::vector<std::uint64_t> rows;
  std::size_t block = none;  // that the evaluator holds
  std::vector<std::uint32_t> numbers;
  static constexpr std::size_t none = ~std::size_t{0};

  std::size_t count_of(std::size_t number) const {
    return std::min(circuit::lanes, size - number * circuit::lanes);
  }
  // Where in the evaluator a position is, once its block is there.
  std::size_t enter(std::size_t at) {
    if (at >= size) throw std::logic_error("no such position in the batch");
    const std::size_t number = at / circuit::lanes;
    if (number != block) {
      const std::size_t words = evaluator.words();
      evaluator.set_positions(
          std::span(rows).subspan(number * circuit::lanes * words, count_of(number) * words),
          count_of(number));
      block = number;
    }
    return at % circuit::lanes;
  }
  bool numbers_of(const JointMove& joint, std::size_t place,
                  std::vector<std::uint32_t>& moves) const;
};

Batch::Batch(std::unique_ptr<Inner> inner) : inner_(std::move(inner)) {}
Batch::Batch(Batch&&) noexcept = default;
Batch& Batch::operator=(Batch&&) noexcept = default;
Batch::~Batch() = default;

Result<Batch> Batch::make(const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  const LaneGame* const lanes = core.lanes();
  if (lanes == nullptr) return core.lanes_fault();
  return Batch(std::make_unique<Inner>(game, *lanes));
}

std::size_t Batch::size() const {
  return inner_->size;
}

Diagnostics Batch::assign(std::span<const Position> positions) {
  std::vector<std::uint64_t> rows;
  rows.reserve(positions.size() * inner_->evaluator.words());
  const LaneGame& lanes = inner_->evaluator.game();
  for (const Position& position : positions) {
    const auto bits = lanes.bits(GameAccess::state(position).fluents());
    if (!bits) {
      Diagnostics faults;
      faults.add(plain_error("unforeseen-fluent",
                             "a position holds a fluent that no play from the start can lead to: " +
                                 position.to_string(),
                             "use Game for positions like this one"));
      return faults;
    }
    const auto row = lanes.row(*bits);
    rows.insert(rows.end(), row.begin(), row.end());
  }
  inner_->rows = std::move(rows);
  inner_->size = positions.size();
  inner_->block = Inner::none;
  return {};
}

bool Batch::terminal(std::size_t at) {
  const std::size_t place = inner_->enter(at);
  return inner_->evaluator.terminal(place);
}

std::vector<Move> Batch::legal(std::size_t at, const Role& role) {
  const std::size_t place = inner_->enter(at);
  inner_->evaluator.legal(place, role.index(), inner_->numbers);
  std::vector<Move> result;
  for (const std::uint32_t number : inner_->numbers) {
    result.push_back(
        GameAccess::move(inner_->game, inner_->ground.moves()[role.index()][number].term));
  }
  return result;
}

std::size_t Batch::legal_count(std::size_t at, const Role& role) {
  const std::size_t place = inner_->enter(at);
  return inner_->evaluator.legal_count(place, role.index());
}

std::vector<Term> Batch::goals(std::size_t at, const Role& role) {
  const std::size_t place = inner_->enter(at);
  inner_->evaluator.goals(place, role.index(), inner_->numbers);
  std::vector<Term> result;
  for (const std::uint32_t number : inner_->numbers) {
    result.push_back(inner_->core->terms().term(inner_->ground.goals()[role.index()][number].term));
  }
  return result;
}

std::optional<std::int64_t> Batch::goal(std::size_t at, const Role& role) {
  return only_number(goals(at, role));
}

Position Batch::position(std::size_t at) {
  inner_->enter(at);
  const std::size_t words = inner_->evaluator.words();
  std::vector<Term> fluents;
  for (std::size_t w = 0; w < words; ++w) {
    for (std::uint64_t word = inner_->rows[at * words + w]; word != 0; word &= word - 1) {
      const std::size_t number = w * 64 + static_cast<std::size_t>(std::countr_zero(word));
      fluents.push_back(inner_->core->terms().term(inner_->ground.fluents()[number].term));
    }
  }
  return inner_->game.position(fluents).value();
}

// The numbers of the moves; false if they are not one legal move a role.
bool Batch::Inner::numbers_of(const JointMove& joint, std::size_t place,
                              std::vector<std::uint32_t>& moves) const {
  moves.clear();
  if (joint.size() != ground.moves().size()) return false;
  for (std::size_t role = 0; role < joint.size(); ++role) {
    const TermId id = GameAccess::owner(joint[role]) == core.get()
                          ? GameAccess::id(joint[role])
                          : core->terms().find(joint[role].term());
    const auto number = evaluator.game().move_number(role, id);
    if (!number || !evaluator.is_legal(place, role, *number)) return false;
    moves.push_back(*number);
  }
  return true;
}

Diagnostics Batch::advance(std::span<const JointMove> joints) {
  Inner& inner = *inner_;
  if (joints.size() != inner.size) throw std::logic_error("a joint move for each position");
  const std::size_t words = inner.evaluator.words();
  std::vector<std::uint64_t> next = inner.rows;
  std::vector<std::uint32_t> moves;
  Diagnostics faults;
  circuit::each_piece(inner.size, [&](std::size_t first, std::size_t count) {
    inner.enter(first);
    for (std::size_t i = 0; i < count; ++i) {
      if (inner.evaluator.terminal(i)) continue;
      if (!inner.numbers_of(joints[first + i], i, moves)) {
        // The game says what is wrong with it.
        faults = inner.game.next(position(first + i), joints[first + i]).diagnostics();
        faults.add(plain_error("position-at-fault", fmt::format("in position {}", first + i)));
        return false;
      }
      inner.evaluator.set_joint(i, moves);
    }
    inner.evaluator.step();
    for (std::size_t i = 0; i < count; ++i) {
      if (inner.evaluator.terminal(i)) continue;
      std::ranges::copy(inner.evaluator.next(i),
                        next.begin() + static_cast<std::ptrdiff_t>((first + i) * words));
    }
    return true;
  });
  if (!faults.empty()) return faults;
  inner.rows = std::move(next);
  inner.block = Inner::none;
  return {};
}

}  // namespace orchard
