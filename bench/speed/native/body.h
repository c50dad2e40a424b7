// What the bench writes for its native peers: counts, then the arrays one after the other.
#pragma once
#include <chrono>
#include <cstdint>
#include <cstdio>
#include <algorithm>
#include <cstdlib>
#include <vector>

using Clock = std::chrono::steady_clock;
inline double since(Clock::time_point from) {
  return std::chrono::duration<double, std::milli>(Clock::now() - from).count();
}

struct Body {
  int32_t vertices, triangles, bones, influences;
  std::vector<float> positions, segments, weights, matrices;
  std::vector<uint32_t> indices, joints;
};

template <class T> void fill(std::FILE *file, std::vector<T> &list, size_t count) {
  list.resize(count);
  if (std::fread(list.data(), sizeof(T), count, file) != count) std::exit(2);
}

inline Body readBody(const char *name) {
  std::FILE *file = std::fopen(name, "rb");
  if (!file) std::exit(2);
  Body b;
  if (std::fread(&b.vertices, 4, 4, file) != 4) std::exit(2);
  const size_t v = b.vertices, k = b.influences;
  fill(file, b.positions, 3 * v);
  fill(file, b.indices, 3 * size_t(b.triangles));
  fill(file, b.segments, 6 * size_t(b.bones));
  fill(file, b.joints, k * v);
  fill(file, b.weights, k * v);
  fill(file, b.matrices, 12 * size_t(b.bones));
  std::fclose(file);
  return b;
}
