#include "base/similar.hpp"

#include <algorithm>
#include <array>

namespace orchard {

int edit_distance(std::string_view a, std::string_view b) {
  constexpr std::size_t longest = 64;
  if (a.size() > longest || b.size() > longest) return static_cast<int>(longest);
  std::array<std::array<int, longest + 1>, 3> rows{};  // for i-2, i-1, i letters of a
  for (std::size_t j = 0; j <= b.size(); ++j) rows[1][j] = static_cast<int>(j);
  for (std::size_t i = 1; i <= a.size(); ++i) {
    rows[2][0] = static_cast<int>(i);
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const int replaced = rows[1][j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1);
      rows[2][j] = std::min({rows[1][j] + 1, rows[2][j - 1] + 1, replaced});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) {
        rows[2][j] = std::min(rows[2][j], rows[0][j - 2] + 1);
      }
    }
    rows[0] = rows[1];
    rows[1] = rows[2];
  }
  return rows[1][b.size()];
}

std::optional<std::string> most_similar(std::string_view name, std::span<const std::string> names) {
  const int most = std::min<int>(2, static_cast<int>(name.size()) / 3);
  std::optional<std::string> best;
  int best_distance = most + 1;
  for (const std::string& other : names) {
    const int distance = edit_distance(name, other);
    if (distance > 0 && distance < best_distance) {
      best = other;
      best_distance = distance;
    }
  }
  return best;
}

}  // namespace orchard
