// Runs plans over tables: the inner loop of the evaluator.
//
// Components are worked out when a plan first reads them: all their rows, or those for the values
// that are asked for (`program.hpp`). A component that depends on itself is run semi-naively: each
// round, one condition of a clause sees only the rows that the round before added, so that every
// combination is tried once when its newest row is new, until a round adds nothing (the least
// fixpoint).
//
// Owns scratch memory: one runner belongs to one thread. Throws LimitExceeded, nothing else of
// its own; the tables are then incomplete and are to be cleared, and the runner started again.
#pragma once

#include <memory>
#include <span>
#include <stdexcept>
#include <string>
#include <vector>

#include "logic/program.hpp"
#include "logic/table.hpp"

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
  explicit Runner(const Program& program) : program_(program), cache_(cache_size, rules::no_term) {}

  // `tables` by TableId: where to read and write. They stay where they are until the next start.
  void start(std::span<Table* const> tables);
  // Forgets what has been spent against the limits, and what a run that was broken off left.
  void start_count();

  // All rows of the component's tables, unless that was done since they were forgotten.
  void work_out(std::uint32_t component);
  // Clears what the components of the phase have worked out.
  void forget(Phase phase);

  // Rows looked at and made, and plans run, since it was made: the same on every machine.
  std::uint64_t work() const { return work_ + join_steps_; }
  std::uint64_t work_of(std::uint32_t component) const { return spent_[component]; }

 private:
  struct Frame {
    std::uint32_t row = Table::no_row;  // the next row to try
    std::uint32_t end = 0;              // for walks without a key
    bool found = false;                 // some row, since the step was entered
  };
  struct Range {
    std::uint32_t first = 0;
    std::uint32_t end = 0;
  };
  // The memory of one plan being run; questions run further plans inside it.
  struct Level {
    const Plan* plan = nullptr;
    std::vector<TermId> variables;
    std::vector<Frame> frames;
    std::vector<TermId> keys;  // those of all steps
    std::vector<TermId> head;
    std::vector<TermId> buffer;  // rows made while their own table was being read
    std::vector<TermId> values;  // asked for
    std::vector<TermId> stack;
    std::vector<TermId> second_stack;
  };
  enum class Done : std::uint8_t { no, started, all };  // what a component has worked out

  void run_plan(const Plan& plan, bool buffered);
  void charge(const Plan& plan);
  void run_steps(Level& level, bool buffered);
  void run_rounds(const Program::Component& component, std::span<const TableId> more,
                  const std::vector<Plan>& plans);
  void store_buffer(const Plan& plan, const std::vector<TermId>& buffer);
  void add_facts(const Program::Component& component);
  void ask(Level& level, const Step& step);
  void answer(std::uint32_t component, TableId keys);
  bool enter(Level& level, const Step& step, Frame& frame);
  bool advance(Level& level, const Step& step, Frame& frame);
  void count_step(const Level& level) {
    if (++join_steps_ >= next_look_) look_round(level);
  }
  void look_round(const Level& level);
  bool read_key(Level& level, const Step& step);
  bool match(Level& level, const Argument& argument, TermId id);
  bool take_apart(Level& level, const Argument& argument, TermId id);
  TermId value(Level& level, const Argument& argument, bool add);
  TermId built(Level& level, std::uint32_t first, std::uint32_t end, bool add);
  TermId intern(Level& level, SymbolId symbol, std::span<const TermId> arguments, bool add);
  void emit(Level& level, bool buffered);
  void store(TableId table, const TermId* row);
  void count_row();

  static constexpr std::size_t cache_size = 1u << 12;
  static constexpr std::uint64_t between_looks = 1u << 14;

  const Program& program_;
  std::span<Table* const> tables_;
  std::vector<Done> done_;  // by component
  std::vector<std::unique_ptr<Level>> levels_;
  std::size_t depth_ = 0;        // plans being run
  std::vector<Range> new_rows_;  // by TableId, for the components being run
  std::vector<TermId> cache_;    // terms met lately, by hash
  std::uint64_t rows_ = 0;
  std::uint64_t join_steps_ = 0;
  std::uint64_t next_look_ = between_looks;  // at interrupts and limits
  std::uint64_t work_ = 0;                   // before the last start
  std::vector<std::uint64_t> spent_;         // by component
  std::uint64_t charged_ = 0;                // of `join_steps_`, what `spent_` has
};

}  // namespace orchard::logic
