// Operation by operation over values in memory; a value's slot is used again once it is dead.
#include <vector>

#include "circuit/executor.hpp"
#include "circuit/liveness.hpp"

namespace orchard::circuit {
namespace {

class Interpreter : public Executor {
 public:
  explicit Interpreter(const LaneProgram& program) : program_(program) {
    const Liveness liveness(program);
    std::vector<std::uint32_t> free;
    slot_.resize(program.inputs + program.operations.size());
    for (std::uint32_t i = 0; i < program.operations.size(); ++i) {
      // The operands stay in place until the result is written.
      if (free.empty()) free.push_back(slots_++);
      const std::uint32_t value = program.inputs + i;
      slot_[value] = free.back();
      free.pop_back();
      for (const std::uint32_t dead : liveness.last_used_at(i)) {
        if (dead >= program.inputs) free.push_back(slot_[dead]);
      }
    }
  }

  Kind kind() const override { return Kind::interpreter; }
  std::size_t scratch_blocks() const override { return slots_; }

  void run(const LaneMemory& memory) const override {
    const auto at = [&](std::uint32_t value) -> const LaneBlock& {
      if (value < program_.state_inputs) return memory.state[value];
      if (value < program_.inputs) return memory.random[value - program_.state_inputs];
      return memory.scratch[slot_[value]];
    };
    for (std::uint32_t i = 0; i < program_.operations.size(); ++i) {
      const LaneOperation& operation = program_.operations[i];
      compute(operation.table, at(operation.a), at(operation.b), at(operation.c),
              memory.scratch[slot_[program_.inputs + i]]);
    }
    for (std::uint32_t o = 0; o < program_.outputs.size(); ++o) {
      LaneBlock& out = o < program_.reports ? memory.reports[o] : memory.next[o - program_.reports];
      out = at(program_.outputs[o]);
    }
  }

 private:
  static void compute(std::uint8_t table, const LaneBlock& a, const LaneBlock& b,
                      const LaneBlock& c, LaneBlock& result) {
    std::array<std::uint64_t, 8> all{};  // all lanes, where the table says 1
    for (std::size_t bits = 0; bits < 8; ++bits) all[bits] = 0 - (std::uint64_t{table} >> bits & 1);
    for (std::size_t w = 0; w < result.words.size(); ++w) {
      const std::uint64_t x = a.words[w];
      const std::uint64_t y = b.words[w];
      const std::uint64_t z = c.words[w];
      const auto choose = [](std::uint64_t condition, std::uint64_t no, std::uint64_t yes) {
        return no ^ ((no ^ yes) & condition);
      };
      const std::uint64_t low = choose(y, choose(z, all[0], all[1]), choose(z, all[2], all[3]));
      const std::uint64_t high = choose(y, choose(z, all[4], all[5]), choose(z, all[6], all[7]));
      result.words[w] = choose(x, low, high);
    }
  }

  const LaneProgram program_;
  std::vector<std::uint32_t> slot_;
  std::uint32_t slots_ = 0;
};

}  // namespace

std::unique_ptr<Executor> make_interpreter(const LaneProgram& program) {
  return std::make_unique<Interpreter>(program);
}

}  // namespace orchard::circuit
