// Bone heat as in Baran and Popovic 2007, "Automatic rigging and animation of 3D characters": (L + H) w = H p on the surface,
// with cotangent weights, H = 1 / d^2 to the nearest bones, one sparse Cholesky factor for all bones. Every bone is taken to be
// seen: a test of sight would only make it slower.
// heat BODY ROUNDS -> best milliseconds
#include "body.h"
#include <Eigen/Geometry>
#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>
#include <cmath>

using Sparse = Eigen::SparseMatrix<double>;
using Eigen::Vector3d;

static double distanceTo(const Vector3d &p, const Vector3d &a, const Vector3d &b) {
  const Vector3d d = b - a;
  const double l = d.squaredNorm();
  const double t = l > 0 ? std::min(1.0, std::max(0.0, (p - a).dot(d) / l)) : 0;
  return (p - a - t * d).norm();
}

static double solve(const Body &body) {
  const auto from = Clock::now();
  const int n = body.vertices, bones = body.bones;
  std::vector<Vector3d> p(n);
  for (int v = 0; v < n; v++) p[v] = {body.positions[3 * v], body.positions[3 * v + 1], body.positions[3 * v + 2]};
  std::vector<Eigen::Triplet<double>> entries;
  entries.reserve(size_t(body.triangles) * 12 + n);
  std::vector<double> area(n, 0);
  for (int f = 0; f < body.triangles; f++) {
    const uint32_t *c = &body.indices[3 * f];
    const double twice = (p[c[1]] - p[c[0]]).cross(p[c[2]] - p[c[0]]).norm();
    if (!(twice > 1e-14)) continue;
    for (int k = 0; k < 3; k++) {
      const int i = c[k], j = c[(k + 1) % 3], o = c[(k + 2) % 3];
      area[i] += twice / 6;
      const double half = 0.5 * (p[i] - p[o]).dot(p[j] - p[o]) / twice;
      entries.emplace_back(i, j, -half);
      entries.emplace_back(j, i, -half);
      entries.emplace_back(i, i, half);
      entries.emplace_back(j, j, half);
    }
  }
  std::vector<std::vector<int>> nearest(n);
  std::vector<double> heat(n);
  for (int v = 0; v < n; v++) {
    double least = 1e30;
    std::vector<double> d(bones);
    for (int b = 0; b < bones; b++) {
      const float *s = &body.segments[6 * b];
      d[b] = distanceTo(p[v], {s[0], s[1], s[2]}, {s[3], s[4], s[5]});
      least = std::min(least, d[b]);
    }
    for (int b = 0; b < bones; b++)
      if (d[b] <= least * 1.0001) nearest[v].push_back(b);
    heat[v] = area[v] / std::max(1e-8, least * least);
    entries.emplace_back(v, v, std::max(1e-12, heat[v] * double(nearest[v].size())));
  }
  Sparse a(n, n);
  a.setFromTriplets(entries.begin(), entries.end());
  Eigen::SimplicialLLT<Sparse> factor(a);
  if (factor.info() != Eigen::Success) { std::fprintf(stderr, "no factor\n"); std::exit(1); }
  std::vector<float> weights(size_t(n) * bones);
  Eigen::VectorXd right(n);
  for (int b = 0; b < bones; b++) {
    right.setZero();
    for (int v = 0; v < n; v++)
      for (int near : nearest[v])
        if (near == b) right[v] = heat[v];
    const Eigen::VectorXd w = factor.solve(right);
    for (int v = 0; v < n; v++) weights[size_t(v) * bones + b] = float(w[v]);
  }
  const double took = since(from);
  if (!(weights[0] > -1)) std::exit(1);
  return took;
}

int main(int, char **args) {
  const Body body = readBody(args[1]);
  double best = 1e30;
  for (int round = std::atoi(args[2]); round > 0; round--) best = std::min(best, solve(body));
  std::printf("%.3f\n", best);
}
