// What both kinds of machine code share: where values are while straight code is written.
//
// Values live in vector registers; when none is free, the value whose next use lies furthest away
// leaves (Belady 1966). A value that has a place in memory already, as input, output or spilled
// before, leaves without a store. An operand that is not in a register and not needed soon is read
// from memory by the instruction itself. Code pages are written first and made executable after,
// never both at once.
#pragma once

#include <xbyak/xbyak.h>

#include <array>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "circuit/lanes/executor.hpp"
#include "circuit/lanes/liveness.hpp"

namespace orchard::circuit {

class LaneCode : public Xbyak::CodeGenerator {
 public:
  using Function = void (*)(const LaneBlock* state, const LaneBlock* random, LaneBlock* next,
                            LaneBlock* reports, LaneBlock* scratch);

  // Writes all of the program, which is not looked at afterwards; throws Xbyak::Error if the system
  // gives no memory for code, or none that can be executed.
  void write();

  Function function() const { return getCode<Function>(); }
  std::uint32_t spills() const { return spills_; }

 protected:
  static constexpr std::uint32_t none = 0xFFFFFFFF;

  LaneCode(const LaneProgram& program, std::size_t size, int registers);

  // A whole vector, by the number of its register.
  virtual void move(const Xbyak::Address& to, int from) = 0;
  virtual void move(int to, const Xbyak::Address& from) = 0;
  // Writes the instructions of one operation and gives the register of its result. `operands` are
  // different; all are in registers but `in_memory`, which stands last.
  virtual int operate(const LaneOperation& operation, std::vector<std::uint32_t>& operands,
                      std::optional<std::uint32_t> in_memory) = 0;
  virtual void begin() {}

  Xbyak::Address place(std::uint32_t value);  // in memory; it has one
  int register_of(std::uint32_t value) const { return static_cast<int>(register_of_[value]); }
  bool is_held(std::uint32_t value) const { return register_of_[value] != none; }
  // The next operation after this one that reads a value; none if there is none.
  std::uint32_t next_use(std::uint32_t value);
  // A register to write to; what it held is kept elsewhere if it is still needed. Not one of
  // `busy`.
  int take_register(std::span<const std::uint32_t> busy);
  void forget(std::uint32_t value);
  // A register for a result: that of an operand that nobody reads any more, or a free one.
  int take_for_result(std::span<const std::uint32_t> operands);

 private:
  Xbyak::Address input(std::uint32_t value);
  Xbyak::Address output(std::uint32_t number);
  bool has_place(std::uint32_t value) const;
  void leave(int number);
  std::uint32_t take_spill();
  void die(std::uint32_t value);  // nothing reads it any more
  void hold(int number, std::uint32_t value);
  void load(std::uint32_t value, std::span<const std::uint32_t> busy);
  void emit(const LaneOperation& operation);
  void store_inputs_put_out();

  const LaneProgram& program_;
  Liveness liveness_;
  std::vector<std::uint32_t> register_of_;  // by value
  std::vector<std::uint32_t> spill_;        // by value: its place in the scratch memory
  std::vector<std::uint32_t> stored_;       // by value: an output it was stored to
  std::vector<std::uint32_t> next_use_;     // by value: position among its uses
  std::vector<std::vector<std::uint32_t>> outputs_of_;
  std::vector<std::uint32_t> held_;  // by register
  std::uint32_t spills_ = 0;
  std::vector<std::uint32_t> free_spills_;
  std::uint32_t at_ = 0;
};

// Runs written code; a vector of it holds one of `parts` equal parts of a block.
class CodeExecutor : public Executor {
 public:
  CodeExecutor(std::unique_ptr<const LaneCode> code, Kind kind, std::size_t parts)
      : code_(std::move(code)), function_(code_->function()), kind_(kind), parts_(parts) {}

  Kind kind() const override { return kind_; }
  std::size_t scratch_blocks() const override { return code_->spills(); }
  std::size_t code_bytes() const override { return code_->getSize(); }
  void run(const LaneMemory& memory) const override;

 private:
  std::unique_ptr<const LaneCode> code_;
  LaneCode::Function function_;
  Kind kind_;
  std::size_t parts_;
};

// Null if the system allows no code. `size` bounds the bytes of it.
template <class Code>
std::unique_ptr<Executor> make_code_executor(const LaneProgram& program, std::size_t size,
                                             Executor::Kind kind, std::size_t parts) {
  try {
    auto code = std::make_unique<Code>(program, size);
    code->write();
    return std::make_unique<CodeExecutor>(std::move(code), kind, parts);
  } catch (const Xbyak::Error&) {
    return nullptr;
  }
}

}  // namespace orchard::circuit
