// Machine code for AVX2: 256 lanes at a time, so a run goes through the code twice, over the first
// and the second half of every block. Operations of two inputs, 15 registers, and one of ones.
#include <xbyak/xbyak_util.h>

#include "circuit/lanes/lane_code.hpp"
#include "circuit/lanes/two_inputs.hpp"

namespace orchard::circuit {
namespace {

class Code : public LaneCode {
 public:
  Code(const LaneProgram& program, std::size_t size) : LaneCode(program, size, 15) {}

 private:
  static Xbyak::Ymm ymm(int number) { return Xbyak::Ymm(number); }

  void begin() override { vpcmpeqd(ymm15, ymm15, ymm15); }
  void move(const Xbyak::Address& to, int from) override { vmovdqa(to, ymm(from)); }
  void move(int to, const Xbyak::Address& from) override { vmovdqa(ymm(to), from); }

  int operate(const LaneOperation& operation, std::vector<std::uint32_t>& operands,
              std::optional<std::uint32_t> in_memory) override {
    if (operands.empty()) {
      const int target = take_register({});
      if (operation.table == 0) {
        vpxor(ymm(target), ymm(target), ymm(target));
      } else {
        vmovdqa(ymm(target), ymm15);
      }
      return target;
    }
    if (operands.size() == 1) {
      // Nothing but negations reads one value only, or an operation that reads one twice.
      const Xbyak::Ymm only = ymm(register_of(operands[0]));
      const int target = take_for_result(operands);
      switch (operation.table) {
        case negation_table:
          vpxor(ymm(target), only, ymm15);
          break;
        case both_table:
        case either_table:
          vmovdqa(ymm(target), only);
          break;
        default:
          vpxor(ymm(target), only, only);
          break;
      }
      return target;
    }
    // vpandn negates its first operand: what is taken away stands there, in a register.
    if (operation.table == without_table) {
      if (in_memory && *in_memory == operation.c) {
        const Xbyak::Ymm kept = ymm(register_of(operation.b));
        const int taken = take_register(operands);
        vmovdqa(ymm(taken), place(operation.c));
        vpandn(ymm(taken), ymm(taken), kept);
        return taken;
      }
      const Xbyak::Ymm taken = ymm(register_of(operation.c));
      const Xbyak::Ymm kept = in_memory ? ymm15 : ymm(register_of(operation.b));
      const int target = take_for_result(operands);
      if (in_memory) {
        vpandn(ymm(target), taken, place(operation.b));
      } else {
        vpandn(ymm(target), taken, kept);
      }
      return target;
    }
    const Xbyak::Ymm first = ymm(register_of(operands[0]));
    const Xbyak::Ymm second = in_memory ? ymm15 : ymm(register_of(operands[1]));
    const int target = take_for_result(operands);
    const auto write = [&](const Xbyak::Operand& other) {
      switch (operation.table) {
        case both_table:
          vpand(ymm(target), first, other);
          break;
        case either_table:
          vpor(ymm(target), first, other);
          break;
        default:
          vpxor(ymm(target), first, other);
          break;
      }
    };
    if (in_memory) {
      write(place(*in_memory));
    } else {
      write(second);
    }
    return target;
  }
};

}  // namespace

std::unique_ptr<Executor> make_avx2(const LaneProgram& program) {
  static const bool supported = Xbyak::util::Cpu().has(Xbyak::util::Cpu::tAVX2);
  if (!supported) return nullptr;
  const LaneProgram pairs = in_two_inputs(program);
  // Long forms of: a load for each operand, the operation, a spill; a store an output.
  const std::size_t size =
      4096 + pairs.operations.size() * 50 + (pairs.outputs.size() + pairs.inputs) * 24;
  return make_code_executor<Code>(pairs, size, Executor::Kind::avx2, 2);
}

}  // namespace orchard::circuit
