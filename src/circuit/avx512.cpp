// Machine code for AVX-512: one ternary-logic instruction an operation.
//
// Values live in the 32 vector registers; when none is free, the value whose next use lies furthest
// away leaves (Belady 1966). A value that has a place in memory already, as input, output or
// spilled before, leaves without a store. An operand that is not in a register and not needed soon
// is read from memory by the instruction itself. Code pages are written first and made executable
// after, never both at once.
#include <xbyak/xbyak.h>
#include <xbyak/xbyak_util.h>

#include <algorithm>
#include <optional>

#include "circuit/executor.hpp"
#include "circuit/liveness.hpp"

namespace orchard::circuit {
namespace {

constexpr std::uint32_t none = 0xFFFFFFFF;
constexpr int registers = 32;

class Generator : public Xbyak::CodeGenerator {
 public:
  Generator(const LaneProgram& program, std::size_t size)
      : CodeGenerator(size, Xbyak::DontSetProtectRWE),
        program_(program),
        liveness_(program),
        register_of_(program.inputs + program.operations.size(), none),
        spill_(register_of_.size(), none),
        stored_(register_of_.size(), none),
        next_use_(register_of_.size(), 0) {
    held_.fill(none);
    outputs_of_.resize(register_of_.size());
    for (std::uint32_t o = 0; o < program.outputs.size(); ++o) {
      outputs_of_[program.outputs[o]].push_back(o);
    }
    for (at_ = 0; at_ < program.operations.size(); ++at_) emit(program.operations[at_]);
    store_inputs_put_out();
    vzeroupper();
    ret();
    setProtectModeRE();
  }

  std::uint32_t spills() const { return spills_; }

 private:
  // state, random, next, reports, scratch: the arguments of the function
  Xbyak::Address input(std::uint32_t value) {
    if (value < program_.state_inputs) return ptr[rdi + offset(value)];
    return ptr[rsi + offset(value - program_.state_inputs)];
  }
  Xbyak::Address output(std::uint32_t number) {
    if (number < program_.reports) return ptr[rcx + offset(number)];
    return ptr[rdx + offset(number - program_.reports)];
  }
  static std::size_t offset(std::uint32_t block) { return std::size_t{block} * sizeof(LaneBlock); }

  bool has_place(std::uint32_t value) const {
    return value < program_.inputs || stored_[value] != none || spill_[value] != none;
  }
  Xbyak::Address place(std::uint32_t value) {
    if (value < program_.inputs) return input(value);
    if (stored_[value] != none) return output(stored_[value]);
    return ptr[r8 + offset(spill_[value])];
  }

  // The next operation after this one that reads a value; none if there is none.
  std::uint32_t next_use(std::uint32_t value) {
    const auto uses = liveness_.uses(value);
    std::uint32_t& next = next_use_[value];
    while (next < uses.size() && uses[next] <= at_) ++next;
    return next < uses.size() ? uses[next] : none;
  }

  int take_register(std::span<const std::uint32_t> busy) {
    int best = -1;
    std::uint32_t furthest = 0;
    for (int r = 0; r < registers; ++r) {
      const std::uint32_t value = held_[static_cast<std::size_t>(r)];
      if (value == none) return r;
      if (std::ranges::find(busy, value) != busy.end()) continue;
      const std::uint32_t use = next_use(value);
      if (best < 0 || use > furthest) {
        best = r;
        furthest = use;
      }
    }
    leave(best);
    return best;
  }

  void leave(int r) {
    const std::uint32_t value = held_[static_cast<std::size_t>(r)];
    if (next_use(value) != none && !has_place(value)) {
      spill_[value] = spills_++;
      vmovdqa64(ptr[r8 + offset(spill_[value])], Xbyak::Zmm(r));
    }
    forget(value);
  }
  void forget(std::uint32_t value) {
    if (register_of_[value] == none) return;
    held_[register_of_[value]] = none;
    register_of_[value] = none;
  }
  void hold(int r, std::uint32_t value) {
    held_[static_cast<std::size_t>(r)] = value;
    register_of_[value] = static_cast<std::uint32_t>(r);
  }
  Xbyak::Zmm reg(std::uint32_t value) const {
    return Xbyak::Zmm(static_cast<int>(register_of_[value]));
  }

  void load(std::uint32_t value, std::span<const std::uint32_t> busy) {
    const int r = take_register(busy);
    vmovdqa64(Xbyak::Zmm(r), place(value));
    hold(r, value);
  }

  // The table for operands in the order of the instruction: destination, second, third.
  static std::uint8_t immediate(const LaneOperation& operation,
                                const std::array<std::uint32_t, 3>& order) {
    std::uint8_t result = 0;
    for (int bits = 0; bits < 8; ++bits) {
      const auto bit_of = [&](std::uint32_t value) {
        for (int i = 0; i < 3; ++i) {
          if (order[static_cast<std::size_t>(i)] == value) return bits >> (2 - i) & 1;
        }
        return 0;
      };
      const int index = bit_of(operation.a) << 2 | bit_of(operation.b) << 1 | bit_of(operation.c);
      if ((operation.table >> index & 1) != 0) {
        result = static_cast<std::uint8_t>(result | 1u << bits);
      }
    }
    return result;
  }

  void emit(const LaneOperation& operation) {
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
      if (register_of_[operand] != none) continue;
      const std::uint32_t use = next_use(operand);
      if (!in_memory && operands.size() > 1 && (use == none || use - at_ > soon)) {
        in_memory = operand;
      } else {
        load(operand, operands);
      }
    }
    // In registers first; the one in memory stands third.
    std::ranges::stable_sort(operands, {}, [&](std::uint32_t v) { return v == in_memory ? 1 : 0; });
    std::array<std::uint32_t, 3> order{none, none, none};
    int target = -1;
    if (operands.size() == 3) {
      // The destination is read too: best an operand that is dead afterwards.
      for (std::size_t i = 0; i < 3; ++i) {
        if (operands[i] != in_memory && next_use(operands[i]) == none) {
          std::swap(operands[0], operands[i]);
          break;
        }
      }
      const std::uint32_t first = operands[0];
      if (next_use(first) == none) {
        target = static_cast<int>(register_of_[first]);
        forget(first);
      } else {
        target = take_register(operands);
        vmovdqa64(Xbyak::Zmm(target), reg(first));
      }
      order = {operands[0], operands[1], operands[2]};
    } else {
      if (operands.size() == 2) order = {none, operands[0], operands[1]};
      if (operands.size() == 1) order = {none, operands[0], operands[0]};
    }
    const auto third = order[2] == none || register_of_[order[2]] == none
                           ? Xbyak::Zmm(0)
                           : Xbyak::Zmm(int(register_of_[order[2]]));
    const auto second = order[1] == none ? Xbyak::Zmm(0) : Xbyak::Zmm(int(register_of_[order[1]]));
    const bool from_memory = in_memory && order[2] == *in_memory;
    if (target < 0) {
      for (const std::uint32_t operand : operands) {
        if (register_of_[operand] != none && next_use(operand) == none) {
          target = static_cast<int>(register_of_[operand]);
          forget(operand);
          break;
        }
      }
      if (target < 0) target = take_register(operands);
    }
    const std::uint8_t table = immediate(operation, order);
    const Xbyak::Zmm to(target);
    if (operands.empty()) {
      vpternlogq(to, to, to, operation.table);
    } else if (from_memory) {
      vpternlogq(to, second, place(*in_memory), table);
    } else {
      vpternlogq(to, second, third, table);
    }
    for (const std::uint32_t operand : operands) {
      if (register_of_[operand] != none && next_use(operand) == none) forget(operand);
    }
    hold(target, result);
    for (const std::uint32_t o : outputs_of_[result]) {
      vmovdqa64(output(o), to);
      stored_[result] = o;
    }
    if (next_use(result) == none) forget(result);
  }

  void store_inputs_put_out() {
    for (std::uint32_t value = 0; value < program_.inputs; ++value) {
      if (outputs_of_[value].empty()) continue;
      if (register_of_[value] == none) load(value, {});
      for (const std::uint32_t o : outputs_of_[value]) vmovdqa64(output(o), reg(value));
    }
  }

  const LaneProgram& program_;
  Liveness liveness_;
  std::vector<std::uint32_t> register_of_;  // by value
  std::vector<std::uint32_t> spill_;        // by value: its place in the scratch memory
  std::vector<std::uint32_t> stored_;       // by value: an output it was stored to
  std::vector<std::uint32_t> next_use_;     // by value: position among its uses
  std::vector<std::vector<std::uint32_t>> outputs_of_;
  std::array<std::uint32_t, registers> held_{};
  std::uint32_t spills_ = 0;
  std::uint32_t at_ = 0;
};

class MachineCode : public Executor {
 public:
  explicit MachineCode(const LaneProgram& program, std::size_t size)
      : generator_(program, size),
        run_(generator_.getCode<void (*)(const LaneBlock*, const LaneBlock*, LaneBlock*, LaneBlock*,
                                         LaneBlock*)>()) {}

  Kind kind() const override { return Kind::avx512; }
  std::size_t scratch_blocks() const override { return generator_.spills(); }
  std::size_t code_bytes() const override { return generator_.getSize(); }
  void run(const LaneMemory& memory) const override {
    run_(memory.state, memory.random, memory.next, memory.reports, memory.scratch);
  }

 private:
  Generator generator_;
  void (*run_)(const LaneBlock*, const LaneBlock*, LaneBlock*, LaneBlock*, LaneBlock*);
};

}  // namespace

std::unique_ptr<Executor> make_avx512(const LaneProgram& program) {
  static const bool supported = Xbyak::util::Cpu().has(Xbyak::util::Cpu::tAVX512F);
  if (!supported) return nullptr;
  // Long forms of: a load for each operand, a copy, the operation, a spill; a store an output.
  const std::size_t size =
      4096 + program.operations.size() * 70 + (program.outputs.size() + program.inputs) * 24;
  try {
    return std::make_unique<MachineCode>(program, size);
  } catch (const Xbyak::Error&) {
    return nullptr;  // the system gives no memory for code, or none that can be executed
  }
}

}  // namespace orchard::circuit
