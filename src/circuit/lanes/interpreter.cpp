// Operation by operation over values in memory; a value's slot is used again once it is dead.
#include <vector>

#include "circuit/lanes/executor.hpp"
#include "circuit/lanes/interpreter_kernels.hpp"
#include "circuit/lanes/liveness.hpp"

namespace orchard::circuit {
namespace {

class Interpreter : public Executor {
 public:
  explicit Interpreter(const LaneProgram& program) : reports_(program.reports) {
    const Liveness liveness(program);
    std::vector<std::uint32_t> free;
    std::vector<std::uint32_t> slot(program.operations.size());
    const auto place = [&](std::uint32_t value) {
      if (value < program.state_inputs) return LanePlace{state, value};
      if (value < program.inputs) return LanePlace{random, value - program.state_inputs};
      return LanePlace{scratch, slot[value - program.inputs]};
    };
    for (std::uint32_t i = 0; i < program.operations.size(); ++i) {
      // The operands stay in place until the result is written.
      if (free.empty()) free.push_back(slots_++);
      slot[i] = free.back();
      free.pop_back();
      const LaneOperation& operation = program.operations[i];
      records_.push_back(
          {place(operation.a), place(operation.b), place(operation.c), slot[i], operation.table});
      for (const std::uint32_t dead : liveness.last_used_at(i)) {
        if (dead >= program.inputs) free.push_back(slot[dead - program.inputs]);
      }
    }
    for (const std::uint32_t output : program.outputs) outputs_.push_back(place(output));
  }

  Kind kind() const override { return Kind::interpreter; }
  std::size_t scratch_blocks() const override { return slots_; }

  void run(const LaneMemory& memory) const override {
    const LaneBlock* const memories[] = {memory.state, memory.random, memory.scratch};
    run_records(records_.data(), records_.size(), memories, memory.scratch);
    for (std::uint32_t o = 0; o < outputs_.size(); ++o) {
      LaneBlock& out = o < reports_ ? memory.reports[o] : memory.next[o - reports_];
      out = memories[outputs_[o].memory][outputs_[o].block];
    }
  }

 private:
  enum Memory : std::uint32_t { state, random, scratch };

  const std::uint32_t reports_;
  std::vector<LaneRecord> records_;
  std::vector<LanePlace> outputs_;
  std::uint32_t slots_ = 0;
};

}  // namespace

std::unique_ptr<Executor> make_interpreter(const LaneProgram& program) {
  return std::make_unique<Interpreter>(program);
}

}  // namespace orchard::circuit
