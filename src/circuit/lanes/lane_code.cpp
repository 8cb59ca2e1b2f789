#include "circuit/lanes/lane_code.hpp"

#include <algorithm>
#include <cstddef>
#include <type_traits>

namespace orchard::circuit {

LaneCode::LaneCode(const LaneProgram& program, std::size_t size, int registers)
    : CodeGenerator(size, Xbyak::DontSetProtectRWE),
      program_(program),
      liveness_(program),
      register_of_(program.inputs + program.operations.size(), none),
      spill_(register_of_.size(), none),
      stored_(register_of_.size(), none),
      next_use_(register_of_.size(), 0),
      outputs_of_(register_of_.size()),
      held_(static_cast<std::size_t>(registers), none) {
  for (std::uint32_t o = 0; o < program.outputs.size(); ++o) {
    outputs_of_[program.outputs[o]].push_back(o);
  }
}

void LaneCode::write() {
  begin();
  for (at_ = 0; at_ < program_.operations.size(); ++at_) emit(program_.operations[at_]);
  store_inputs_put_out();
  vzeroupper();
  ret();
  setProtectModeRE();
}

namespace {

std::size_t offset(std::uint32_t block) {
  return std::size_t{block} * sizeof(LaneBlock);
}

}  // namespace

// state, random, next, reports, scratch: the arguments of the function.
Xbyak::Address LaneCode::input(std::uint32_t value) {
  if (value < program_.state_inputs) return ptr[rdi + offset(value)];
  return ptr[rsi + offset(value - program_.state_inputs)];
}
Xbyak::Address LaneCode::output(std::uint32_t number) {
  if (number < program_.reports) return ptr[rcx + offset(number)];
  return ptr[rdx + offset(number - program_.reports)];
}

bool LaneCode::has_place(std::uint32_t value) const {
  return value < program_.inputs || stored_[value] != none || spill_[value] != none;
}
Xbyak::Address LaneCode::place(std::uint32_t value) {
  if (value < program_.inputs) return input(value);
  if (stored_[value] != none) return output(stored_[value]);
  return ptr[r8 + offset(spill_[value])];
}

std::uint32_t LaneCode::next_use(std::uint32_t value) {
  const auto uses = liveness_.uses(value);
  std::uint32_t& next = next_use_[value];
  while (next < uses.size() && uses[next] <= at_) ++next;
  return next < uses.size() ? uses[next] : none;
}

int LaneCode::take_register(std::span<const std::uint32_t> busy) {
  std::size_t best = held_.size();
  std::uint32_t furthest = 0;
  for (std::size_t r = 0; r < held_.size(); ++r) {
    const std::uint32_t value = held_[r];
    if (value == none) return static_cast<int>(r);
    if (std::ranges::find(busy, value) != busy.end()) continue;
    const std::uint32_t use = next_use(value);
    if (best == held_.size() || use > furthest) {
      best = r;
      furthest = use;
    }
  }
  leave(static_cast<int>(best));
  return static_cast<int>(best);
}

int LaneCode::take_for_result(std::span<const std::uint32_t> operands) {
  for (const std::uint32_t operand : operands) {
    if (!is_held(operand) || next_use(operand) != none) continue;
    const int number = register_of(operand);
    forget(operand);
    return number;
  }
  return take_register(operands);
}

void LaneCode::leave(int number) {
  const std::uint32_t value = held_[static_cast<std::size_t>(number)];
  if (next_use(value) != none && !has_place(value)) {
    spill_[value] = take_spill();
    move(ptr[r8 + offset(spill_[value])], number);
  }
  forget(value);
}
// The place that became free last is the likeliest to be in the cache.
std::uint32_t LaneCode::take_spill() {
  if (free_spills_.empty()) return spills_++;
  const std::uint32_t result = free_spills_.back();
  free_spills_.pop_back();
  return result;
}

void LaneCode::die(std::uint32_t value) {
  if (is_held(value)) forget(value);
  if (spill_[value] == none) return;
  free_spills_.push_back(spill_[value]);
  spill_[value] = none;
}

void LaneCode::forget(std::uint32_t value) {
  if (register_of_[value] == none) return;
  held_[register_of_[value]] = none;
  register_of_[value] = none;
}
void LaneCode::hold(int number, std::uint32_t value) {
  held_[static_cast<std::size_t>(number)] = value;
  register_of_[value] = static_cast<std::uint32_t>(number);
}

void LaneCode::load(std::uint32_t value, std::span<const std::uint32_t> busy) {
  const int number = take_register(busy);
  move(number, place(value));
  hold(number, value);
}

// Every part reads and writes at the same distance from the beginning of its blocks.
void CodeExecutor::run(const LaneMemory& memory) const {
  for (std::size_t part = 0; part < parts_; ++part) {
    const std::size_t distance = part * sizeof(LaneBlock) / parts_;
    const auto at = [&]<class Block>(Block* blocks) {
      using Byte = std::conditional_t<std::is_const_v<Block>, const std::byte, std::byte>;
      return reinterpret_cast<Block*>(reinterpret_cast<Byte*>(blocks) + distance);
    };
    function_(at(memory.state), at(memory.random), at(memory.next), at(memory.reports),
              at(memory.scratch));
  }
}

void LaneCode::emit(const LaneOperation& operation) {
  const std::uint32_t result = program_.inputs + at_;
  std::vector<std::uint32_t> operands{operation.a};
  for (const std::uint32_t operand : {operation.b, operation.c}) {
    if (std::ranges::find(operands, operand) == operands.end()) operands.push_back(operand);
  }
  if (operation.table == 0x00 || operation.table == 0xFF) operands.clear();
  // One operand may be read from memory by the instruction: one that is not needed soon.
  std::optional<std::uint32_t> in_memory;
  constexpr std::uint32_t soon = 24;  // operations
  for (const std::uint32_t operand : operands) {
    if (is_held(operand)) continue;
    const std::uint32_t use = next_use(operand);
    if (!in_memory && operands.size() > 1 && (use == none || use - at_ > soon)) {
      in_memory = operand;
    } else {
      load(operand, operands);
    }
  }
  std::ranges::stable_sort(operands, {}, [&](std::uint32_t v) { return v == in_memory ? 1 : 0; });
  const int target = operate(operation, operands, in_memory);
  for (const std::uint32_t operand : operands) {
    if (next_use(operand) == none) die(operand);
  }
  hold(target, result);
  for (const std::uint32_t o : outputs_of_[result]) {
    move(output(o), target);
    stored_[result] = o;
  }
  if (next_use(result) == none) forget(result);
}

void LaneCode::store_inputs_put_out() {
  for (std::uint32_t value = 0; value < program_.inputs; ++value) {
    if (outputs_of_[value].empty()) continue;
    if (!is_held(value)) load(value, {});
    for (const std::uint32_t o : outputs_of_[value]) move(output(o), register_of(value));
  }
}

}  // namespace orchard::circuit
