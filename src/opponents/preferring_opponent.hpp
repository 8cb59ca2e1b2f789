// Plays the move that rules of its own prefer.
#pragma once

#include <optional>

#include "opponents/judging_opponent.hpp"

namespace orchard::opponents {

class PreferringOpponent : public JudgingOpponent {
 public:
  using JudgingOpponent::JudgingOpponent;
  std::string name() const override { return "rules"; }

 protected:
  Judgement judge(const Row& row, std::size_t role, std::size_t) override {
    if (!reader_) reader_.emplace(preferences());
    return reader_->values(row, role, tree().node(row).legal[role]);
  }

 private:
  std::optional<PreferenceReader> reader_;
};

}  // namespace orchard::opponents
