// Machine code for AVX-512: one ternary-logic instruction an operation, 32 registers.
#include <xbyak/xbyak_util.h>

#include <algorithm>

#include "circuit/lanes/lane_code.hpp"

namespace orchard::circuit {
namespace {

class Code : public LaneCode {
 public:
  Code(const LaneProgram& program, std::size_t size) : LaneCode(program, size, 32) {}

 private:
  static Xbyak::Zmm zmm(int number) { return Xbyak::Zmm(number); }

  void move(const Xbyak::Address& to, int from) override { vmovdqa64(to, zmm(from)); }
  void move(int to, const Xbyak::Address& from) override { vmovdqa64(zmm(to), from); }

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

  int operate(const LaneOperation& operation, std::vector<std::uint32_t>& operands,
              std::optional<std::uint32_t> in_memory) override {
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
        target = register_of(first);
        forget(first);
      } else {
        target = take_register(operands);
        vmovdqa64(zmm(target), zmm(register_of(first)));
      }
      order = {operands[0], operands[1], operands[2]};
    } else if (operands.size() == 2) {
      order = {none, operands[0], operands[1]};
    } else if (operands.size() == 1) {
      order = {none, operands[0], operands[0]};
    }
    const auto held = [&](std::uint32_t value) {
      return value == none || !is_held(value) ? zmm(0) : zmm(register_of(value));
    };
    const Xbyak::Zmm second = held(order[1]);
    const Xbyak::Zmm third = held(order[2]);
    if (target < 0) target = take_for_result(operands);
    const std::uint8_t table = immediate(operation, order);
    const Xbyak::Zmm to = zmm(target);
    if (operands.empty()) {
      vpternlogq(to, to, to, operation.table);
    } else if (in_memory && order[2] == *in_memory) {
      vpternlogq(to, second, place(*in_memory), table);
    } else {
      vpternlogq(to, second, third, table);
    }
    return target;
  }
};

}  // namespace

std::unique_ptr<Executor> make_avx512(const LaneProgram& program) {
  static const bool supported = Xbyak::util::Cpu().has(Xbyak::util::Cpu::tAVX512F);
  if (!supported) return nullptr;
  // Long forms of: a load for each operand, a copy, the operation, a spill; a store an output.
  const std::size_t size =
      4096 + program.operations.size() * 70 + (program.outputs.size() + program.inputs) * 24;
  return make_code_executor<Code>(program, size, Executor::Kind::avx512, 1);
}

}  // namespace orchard::circuit
