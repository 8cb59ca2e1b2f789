// Runs plans over tables: the inner loop of the reference evaluator.
//
// A component that depends on itself is run semi-naively: each round, one condition of a clause
// sees only the rows that the round before added, so that every combination is tried once when
// its newest row is new, until a round adds nothing (the least fixpoint).
//
// Owns scratch memory: one runner belongs to one thread. Throws LimitExceeded, nothing else of
// its own; the tables are then incomplete and are to be cleared.
#pragma once

#include <stdexcept>
#include <vector>

#include "logic/program.hpp"

namespace orchard::logic {

class LimitExceeded : public std::runtime_error {
 public:
  LimitExceeded(const std::string& what, std::uint32_t clause)
      : std::runtime_error(what), clause_(clause) {}
  std::uint32_t clause() const { return clause_; }  // of the description, being run at the time

 private:
  std::uint32_t clause_;
};

class Runner {
 public:
  Runner(const Program& program) : program_(program), cache_(cache_size, rules::no_term) {}

  // `tables` by TableId: where to read and write.
  void run(const Program::Component& component, std::span<Table* const> tables);

  // Forgets how much has been spent against the limits.
  void start_count() {
    work_ += join_steps_;
    rows_ = join_steps_ = 0;
  }
  // Rows looked at since it was made, the same on every machine.
  std::uint64_t work() const { return work_ + join_steps_; }

 private:
  struct Frame {
    std::uint32_t row = Table::no_row;  // the next row to try
    std::uint32_t end = 0;              // for walks without a key
  };
  struct Range {
    std::uint32_t first = 0;
    std::uint32_t end = 0;
  };

  void run_plan(const Plan& plan, bool buffered);
  void run_recursive(const Program::Component& component);
  bool enter(const Step& step, Frame& frame);
  bool advance(const Step& step, Frame& frame);
  bool read_key(const Step& step, std::vector<TermId>& key);
  bool key_equals(const Step& step, const TermId* row);
  bool match_row(const Step& step, const TermId* row);
  bool match(const Argument& argument, TermId id);
  TermId value(const Argument& argument, bool add);
  TermId built(std::uint32_t first, std::uint32_t end, bool add);
  TermId intern(SymbolId symbol, std::span<const TermId> arguments, bool add);
  void emit(const Plan& plan, bool buffered);
  void store(TableId table, const TermId* row);
  void count_row();

  static constexpr std::size_t cache_size = 1u << 12;

  const Program& program_;
  std::span<Table* const> tables_;
  const Plan* plan_ = nullptr;
  std::vector<TermId> variables_;
  std::vector<Frame> frames_;
  std::vector<std::vector<TermId>> keys_;  // one for each step
  std::vector<TermId> head_;
  std::vector<TermId> stack_;
  std::vector<TermId> second_stack_;
  std::vector<TermId> buffer_;   // rows made while their own table was being read
  std::vector<Range> new_rows_;  // by TableId, for the component being run
  std::vector<TermId> cache_;    // terms met lately, by hash
  std::uint64_t rows_ = 0;
  std::uint64_t join_steps_ = 0;
  std::uint64_t work_ = 0;  // before the last start
};

}  // namespace orchard::logic
