#include "opponents/leaves.hpp"

#include <algorithm>

#include "circuit/lanes/pieces.hpp"
#include "game/core.hpp"

namespace orchard::opponents {

void Leaves::clear() {
  from.clear();
  joints.clear();
  games.clear();
}

LeafWorker::LeafWorker(const LaneGame& game, std::shared_ptr<const Preferences> worth)
    : game_(game), evaluator_(game), games_(game), words_(game.words()), shares_(game) {
  if (worth) worth_.emplace(std::move(worth));
  for (const Role& role : game.core().roles()) {
    if (role.is_chance()) chance_ = role.index();
  }
}

void LeafWorker::forget_answers(Leaves& leaves) {
  leaves.rows.clear();
  leaves.over.clear();
  leaves.shares.clear();
  leaves.moves.clear();
  leaves.first_move.assign(1, 0);
  leaves.chooser.clear();
  leaves.ends.clear();
  leaves.end_shares.clear();
}

void LeafWorker::read_positions(std::span<const std::uint64_t> rows, std::size_t count,
                                Leaves& leaves) {
  evaluator_.set_positions(rows, count);
  for (std::size_t at = 0; at < count; ++at) {
    bool over = evaluator_.terminal(at);
    const std::size_t first = leaves.moves.size();
    std::size_t choosers = 0;
    std::uint32_t chooser = 0;
    for (std::size_t role = 0; role < roles(); ++role) {
      leaves.shares.push_back(shares_.here(evaluator_, at, role));
      if (!over) {
        evaluator_.legal(at, role, numbers_);
        leaves.moves.insert(leaves.moves.end(), numbers_.begin(), numbers_.end());
        over = numbers_.empty();
        if (numbers_.size() > 1) {
          ++choosers;
          chooser = static_cast<std::uint32_t>(role);
        }
      }
      leaves.first_move.push_back(static_cast<std::uint32_t>(leaves.moves.size()));
    }
    if (over) {
      leaves.moves.resize(first);
      std::fill(leaves.first_move.end() - static_cast<std::ptrdiff_t>(roles()),
                leaves.first_move.end(), static_cast<std::uint32_t>(first));
    }
    leaves.over.push_back(over ? 1 : 0);
    const bool alone = choosers == 0 || (choosers == 1 && !is_chance(chooser));
    leaves.chooser.push_back(alone ? chooser : Leaves::several);
  }
}

// Each leaf's first move of the only role with a choice, then each one's second, and so on: all
// leaves are continued at once.
void LeafWorker::look_for_ends(Leaves& leaves) {
  std::vector<std::uint32_t> open;  // leaves whose chooser has more moves
  std::vector<std::uint64_t> rows;
  std::vector<std::uint32_t> joint(roles());
  const auto moves_of = [&](std::size_t leaf, std::size_t role) {
    const std::size_t at = leaf * roles() + role;
    return std::span(leaves.moves)
        .subspan(leaves.first_move[at], leaves.first_move[at + 1] - leaves.first_move[at]);
  };
  circuit::each_piece(leaves.over.size(), [&](std::size_t first, std::size_t count) {
    open.clear();
    for (std::size_t leaf = first; leaf < first + count; ++leaf) {
      const bool alone = leaves.over[leaf] == 0 && leaves.chooser[leaf] != Leaves::several;
      if (alone) open.push_back(static_cast<std::uint32_t>(leaf));
    }
    for (std::uint32_t choice = 0; !open.empty(); ++choice) {
      std::erase_if(open, [&](std::uint32_t leaf) {
        return moves_of(leaf, leaves.chooser[leaf]).size() <= choice;
      });
      rows.clear();
      for (std::size_t at = 0; at < open.size(); ++at) {
        const std::uint32_t leaf = open[at];
        const auto row = std::span(leaves.rows).subspan(leaf * words_, words_);
        rows.insert(rows.end(), row.begin(), row.end());
        for (std::size_t role = 0; role < roles(); ++role) {
          joint[role] = moves_of(leaf, role)[role == leaves.chooser[leaf] ? choice : 0];
        }
        evaluator_.set_joint(at, joint);
      }
      evaluator_.load(rows, open.size());
      evaluator_.judge_next();
      const auto& terminal = evaluator_.next_terminal();
      for (std::size_t at = 0; at < open.size(); ++at) {
        if (at % 64 == 0 && terminal.words[at / 64] == 0) {
          at += 63;
          continue;
        }
        if ((terminal.words[at / 64] >> at % 64 & 1) == 0) continue;
        leaves.ends.push_back({open[at], choice});
        for (std::size_t role = 0; role < roles(); ++role) {
          leaves.end_shares.push_back(shares_.ahead(evaluator_, at, role));
        }
      }
    }
  });
}

void LeafWorker::look_at(const std::vector<std::uint64_t>& row, Leaves& leaves) {
  forget_answers(leaves);
  leaves.rows = row;
  read_positions(row, 1, leaves);
  look_for_ends(leaves);
}

void LeafWorker::work(Leaves& leaves, Random& random) {
  forget_answers(leaves);
  circuit::each_piece(leaves.count(), [&](std::size_t first, std::size_t here) {
    for (std::size_t at = 0; at < here; ++at) {
      evaluator_.set_joint(at, std::span(leaves.joints).subspan((first + at) * roles(), roles()));
    }
    evaluator_.load(std::span(leaves.from).subspan(first * words_, here * words_), here);
    evaluator_.step();
    for (std::size_t at = 0; at < here; ++at) {
      const auto row = evaluator_.next(at);
      leaves.rows.insert(leaves.rows.end(), row.begin(), row.end());
    }
    read_positions(std::span(leaves.rows).subspan(first * words_, here * words_), here, leaves);
  });
  constexpr std::uint32_t long_without = 8;  // rounds
  if (rounds_without_ends_ < long_without || rounds_without_ends_ % long_without == 0) {
    look_for_ends(leaves);
    if (!leaves.ends.empty()) rounds_without_ends_ = 0;
  }
  ++rounds_without_ends_;
  if (worth_) {
    judge_by_worth(leaves);
  } else {
    judge_by_games(leaves, random);
  }
}

void LeafWorker::judge_by_worth(Leaves& leaves) {
  const std::vector<float> at_ends = leaves.shares;
  worth_->read(leaves.rows, leaves.over.size(), leaves.shares.data());
  for (std::size_t leaf = 0; leaf < leaves.over.size(); ++leaf) {
    if (leaves.over[leaf] == 0) continue;
    std::copy_n(at_ends.begin() + static_cast<std::ptrdiff_t>(leaf * roles()), roles(),
                leaves.shares.begin() + static_cast<std::ptrdiff_t>(leaf * roles()));
  }
}

namespace {

// A share, and beside it, worth much less, how long the game was: losses are better late, wins
// early.
float with_length(float share, std::uint32_t plies) {
  constexpr float beside = 0.02F;
  constexpr float half_way = 32;  // plies
  const float late = static_cast<float>(plies) / (static_cast<float>(plies) + half_way);
  return (1 - beside) * share + beside * (share * (1 - late) + (1 - share) * late);
}

}  // namespace

// Random games of those that go on.
void LeafWorker::judge_by_games(Leaves& leaves, Random& random) {
  const std::size_t count = leaves.count();
  std::vector<std::uint64_t> rows;
  std::size_t games = 0;
  for (std::size_t leaf = 0; leaf < count; ++leaf) {
    if (leaves.over[leaf] != 0) continue;
    const auto row = std::span(leaves.rows).subspan(leaf * words_, words_);
    for (std::uint32_t game = 0; game < leaves.games[leaf]; ++game) {
      rows.insert(rows.end(), row.begin(), row.end());
    }
    games += leaves.games[leaf];
  }
  const std::vector<float> played = games_.play(rows, games, random);
  const float* share = played.data();
  auto length = games_.lengths().begin();
  for (std::size_t leaf = 0; leaf < count; ++leaf) {
    if (leaves.over[leaf] != 0) continue;
    float* const shares = leaves.shares.data() + leaf * roles();
    std::fill_n(shares, roles(), 0.0F);
    for (std::uint32_t i = 0; i < leaves.games[leaf]; ++i) {
      for (std::size_t role = 0; role < roles(); ++role, ++share) {
        shares[role] += counts_length_ ? with_length(*share, *length) : *share;
      }
      ++length;
    }
    for (std::size_t role = 0; role < roles(); ++role) {
      shares[role] /= static_cast<float>(leaves.games[leaf]);
    }
  }
}

}  // namespace orchard::opponents
