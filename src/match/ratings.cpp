#include "orchard/ratings.hpp"

#include <Eigen/Cholesky>
#include <cmath>

namespace orchard {

// Newton's method on the log-likelihood of strengths (natural units), with a weak pull to 0 that
// makes it strictly concave.
std::vector<Rating> rate(std::size_t players, const std::vector<Pairing>& pairings) {
  if (players == 0) return {};
  const auto count = static_cast<Eigen::Index>(players);
  constexpr double pull = 1e-3;
  Eigen::VectorXd strength = Eigen::VectorXd::Zero(count);
  Eigen::MatrixXd curvature = Eigen::MatrixXd::Identity(count, count) * pull;
  constexpr int most_steps = 100;
  for (int step = 0; step < most_steps; ++step) {
    Eigen::VectorXd slope = -pull * strength;
    curvature = Eigen::MatrixXd::Identity(count, count) * pull;
    for (const Pairing& pairing : pairings) {
      if (pairing.games <= 0) continue;
      const auto a = static_cast<Eigen::Index>(pairing.first);
      const auto b = static_cast<Eigen::Index>(pairing.second);
      const double games = pairing.games + 1;
      const double better = pairing.first_better + 0.5;
      const double chance = 1 / (1 + std::exp(strength(b) - strength(a)));
      slope(a) += better - games * chance;
      slope(b) -= better - games * chance;
      const double weight = games * chance * (1 - chance);
      curvature(a, a) += weight;
      curvature(b, b) += weight;
      curvature(a, b) -= weight;
      curvature(b, a) -= weight;
    }
    const Eigen::VectorXd change = curvature.ldlt().solve(slope);
    // Half steps where the model is far from quadratic.
    strength += change.cwiseMax(-1.0).cwiseMin(1.0);
    if (change.cwiseAbs().maxCoeff() < 1e-10) break;
  }
  // Of the difference to the mean of all.
  const Eigen::MatrixXd centre =
      Eigen::MatrixXd::Identity(count, count) -
      Eigen::MatrixXd::Constant(count, count, 1.0 / static_cast<double>(players));
  const Eigen::VectorXd centred = centre * strength;
  const Eigen::MatrixXd spread = centre * curvature.ldlt().solve(centre.transpose().eval());
  const double points = 400 / std::log(10.0);
  constexpr double z = 1.959964;
  std::vector<Rating> result;
  for (Eigen::Index p = 0; p < count; ++p) {
    const double half = z * std::sqrt(std::max(0.0, spread(p, p))) * points;
    const double rating = centred(p) * points;
    result.push_back({rating, rating - half, rating + half});
  }
  return result;
}

}  // namespace orchard
