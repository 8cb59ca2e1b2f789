// What runs a lane program over 512 lanes at once. All kinds give the same bits.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <string_view>

#include "circuit/lanes/lane_program.hpp"

namespace orchard::circuit {

// Where a run reads and writes; all aligned to 64 bytes, none overlapping.
struct LaneMemory {
  const LaneBlock* state = nullptr;   // state_inputs blocks
  const LaneBlock* random = nullptr;  // the other inputs
  LaneBlock* next = nullptr;          // outputs beyond the reports
  LaneBlock* reports = nullptr;
  LaneBlock* scratch = nullptr;  // scratch_blocks()
};

// Immutable once made; any number of threads may run it with memory of their own.
class Executor {
 public:
  enum class Kind {
    interpreter,  // any processor
    avx2,         // machine code
    avx512,       // machine code
  };

  virtual ~Executor() = default;
  virtual Kind kind() const = 0;
  virtual void run(const LaneMemory& memory) const = 0;
  virtual std::size_t scratch_blocks() const = 0;
  virtual std::size_t code_bytes() const { return 0; }
};

inline constexpr std::array all_executor_kinds{Executor::Kind::interpreter, Executor::Kind::avx2,
                                               Executor::Kind::avx512};
std::string_view name_of(Executor::Kind kind);

// An executor of a kind; null if this processor or system cannot run it. Without a kind the
// fastest.
std::unique_ptr<Executor> make_executor(const LaneProgram& program,
                                        std::optional<Executor::Kind> kind = {});

// The kinds by themselves; null where they cannot run.
std::unique_ptr<Executor> make_interpreter(const LaneProgram& program);
std::unique_ptr<Executor> make_avx2(const LaneProgram& program);
std::unique_ptr<Executor> make_avx512(const LaneProgram& program);

}  // namespace orchard::circuit
