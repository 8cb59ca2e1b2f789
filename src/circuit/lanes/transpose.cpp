#include "circuit/lanes/transpose.hpp"

#include <algorithm>
#include <array>

#include "circuit/lanes/transpose_kernels.hpp"

namespace orchard::circuit {
namespace {

using Square = std::array<std::uint64_t, 64>;

// In place, by swapping ever smaller quarters. Source: Warren, "Hacker's Delight" (2002), 7-3.
void transpose(Square& square) {
  std::uint64_t mask = 0x00000000FFFFFFFF;
  for (std::size_t width = 32; width != 0; width /= 2, mask ^= mask << width) {
    for (std::size_t k = 0; k < 64; k = (k + width + 1) & ~width) {
      const std::uint64_t swapped = ((square[k] >> width) ^ square[k + width]) & mask;
      square[k] ^= swapped << width;
      square[k + width] ^= swapped;
    }
  }
}

// From so many rows on all groups of 64 lanes are transposed at once.
constexpr std::size_t worth_all_groups = 65;

void rows_to_all_lanes(std::span<const std::uint64_t> rows, std::size_t row_count,
                       std::span<LaneBlock> blocks) {
  const std::size_t words = words_for(blocks.size());
  std::array<LaneBlock, 64> squares;
  for (std::size_t w = 0; w < words; ++w) {
    for (std::size_t lane = 0; lane < row_count; ++lane) {
      squares[lane % 64].words[lane / 64] = rows[lane * words + w];
    }
    for (std::size_t lane = row_count; lane < lanes; ++lane) {
      squares[lane % 64].words[lane / 64] = 0;
    }
    transpose_squares(squares.data());
    const std::size_t bits = std::min<std::size_t>(64, blocks.size() - w * 64);
    std::copy_n(squares.begin(), bits, blocks.begin() + static_cast<std::ptrdiff_t>(w * 64));
  }
}

void all_lanes_to_rows(std::span<const LaneBlock> blocks, std::size_t row_count,
                       std::span<std::uint64_t> rows) {
  const std::size_t words = words_for(blocks.size());
  std::array<LaneBlock, 64> squares;
  for (std::size_t w = 0; w < words; ++w) {
    const std::size_t bits = std::min<std::size_t>(64, blocks.size() - w * 64);
    const auto from = blocks.begin() + static_cast<std::ptrdiff_t>(w * 64);
    std::fill(std::copy_n(from, bits, squares.begin()), squares.end(), LaneBlock{});
    transpose_squares(squares.data());
    for (std::size_t lane = 0; lane < row_count; ++lane) {
      rows[lane * words + w] = squares[lane % 64].words[lane / 64];
    }
  }
}

}  // namespace

void lanes_to_places(std::span<const LaneBlock> blocks, std::span<const std::uint8_t> places,
                     std::span<std::uint64_t> rows) {
  std::ranges::fill(rows, 0);
  for (std::size_t i = 0; i < places.size();) {
    const unsigned byte = places[i] / 8u;
    std::array<LaneBlock, 8> eight{};
    for (; i < places.size() && places[i] / 8u == byte; ++i) eight[places[i] % 8u] = blocks[i];
    add_byte_to_rows(eight.data(), byte, rows.data());
  }
}

void rows_to_lanes(std::span<const std::uint64_t> rows, std::size_t row_count,
                   std::span<LaneBlock> blocks) {
  if (row_count >= worth_all_groups) return rows_to_all_lanes(rows, row_count, blocks);
  const std::size_t words = words_for(blocks.size());
  Square square;
  for (std::size_t group = 0; group < lanes / 64; ++group) {
    const std::size_t here = row_count - std::min(row_count, group * 64);
    for (std::size_t w = 0; w < words; ++w) {
      const std::size_t bits = std::min<std::size_t>(64, blocks.size() - w * 64);
      if (here == 0) {
        for (std::size_t b = 0; b < bits; ++b) blocks[w * 64 + b].words[group] = 0;
        continue;
      }
      for (std::size_t l = 0; l < 64; ++l) {
        square[l] = l < here ? rows[(group * 64 + l) * words + w] : 0;
      }
      transpose(square);
      for (std::size_t b = 0; b < bits; ++b) blocks[w * 64 + b].words[group] = square[b];
    }
  }
}

void lanes_to_rows(std::span<const LaneBlock> blocks, std::size_t row_count,
                   std::span<std::uint64_t> rows) {
  if (row_count >= worth_all_groups) return all_lanes_to_rows(blocks, row_count, rows);
  const std::size_t words = words_for(blocks.size());
  Square square;
  for (std::size_t group = 0; group * 64 < row_count; ++group) {
    const std::size_t here = std::min<std::size_t>(64, row_count - group * 64);
    for (std::size_t w = 0; w < words; ++w) {
      const std::size_t bits = std::min<std::size_t>(64, blocks.size() - w * 64);
      square.fill(0);
      for (std::size_t b = 0; b < bits; ++b) square[b] = blocks[w * 64 + b].words[group];
      transpose(square);
      for (std::size_t l = 0; l < here; ++l) rows[(group * 64 + l) * words + w] = square[l];
    }
  }
}

}  // namespace orchard::circuit
