// Where a Solution has its answers from: the graph of all positions, a search, or a file.
//
// Immutable once made; safe to share between threads.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/solve.hpp"

namespace orchard {

class SolutionSource {
 public:
  // What is said of all positions.
  struct Facts {
    bool selfish = false;
    bool secures = false;
    bool mixes = false;
    bool repeats = false;  // positions come again
  };

  virtual ~SolutionSource() = default;
  const Facts& facts() const { return facts_; }
  const std::string& reason() const { return reason_; }
  // What else is to be said of a value that is proved; often empty.
  const std::string& remark() const { return remark_; }
  Ending ending() const { return ending_; }
  const Line& line() const { return line_; }

  virtual bool complete() const = 0;
  virtual bool searched() const { return false; }
  virtual std::uint64_t positions() const = 0;
  // As of Solution.
  virtual std::optional<double> value(const Position& position, std::size_t role) const = 0;
  virtual std::optional<std::uint64_t> plies(const Position& position) const = 0;
  virtual std::vector<GoodMove> best(const Position& position, std::size_t role) const = 0;
  virtual Diagnostics keep(const std::string& file) const = 0;

 protected:
  Facts facts_;
  std::string reason_;
  std::string remark_;
  Ending ending_ = Ending::complete;
  Line line_;
};

// A line of best play: of equally good moves the one that wins soonest or loses latest, the
// likeliest of mixed ones, the first of chance.
Line best_line(const Game& game, const SolutionSource& source, const Position& from);

}  // namespace orchard
