// Times the ray kernels of Debian's libembree-dev on raybench's files, as a
// yardstick; nothing in the product needs it.
//
//   g++ -O3 -march=native yardstick.cpp -lembree3 -o yardstick
//   yardstick TRIANGLES RAYS any|closest CONFIG REPS OUT
#include <embree3/rtcore.h>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdint>
#include <cstring>
#include <ctime>
#include <string>
#include <vector>

static std::vector<float> slurp(const char *path) {
  FILE *f = fopen(path, "rb");
  if (!f) { perror(path); exit(2); }
  fseek(f, 0, SEEK_END);
  std::vector<float> v(ftell(f) / 4);
  rewind(f);
  if (fread(v.data(), 4, v.size(), f) != v.size()) exit(2);
  fclose(f);
  return v;
}

static double cpu() {
  timespec t;
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
  return t.tv_sec + t.tv_nsec * 1e-9;
}

int main(int argc, char **argv) {
  if (argc != 7) { fprintf(stderr, "see the head of the source\n"); return 2; }
  auto tri = slurp(argv[1]), ray = slurp(argv[2]);
  bool any = !strcmp(argv[3], "any");
  int reps = atoi(argv[5]);
  RTCDevice dev = rtcNewDevice(argv[4]);
  RTCScene scene = rtcNewScene(dev);
  rtcSetSceneBuildQuality(scene, RTC_BUILD_QUALITY_MEDIUM);
  auto t0 = std::chrono::steady_clock::now();
  RTCGeometry g = rtcNewGeometry(dev, RTC_GEOMETRY_TYPE_TRIANGLE);
  size_t n = tri.size() / 9, m = ray.size() / 8;
  memcpy(rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, n * 3), tri.data(), tri.size() * 4);
  auto *idx = (uint32_t *)rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, n);
  for (size_t i = 0; i < n * 3; i++) idx[i] = (uint32_t)i;
  rtcCommitGeometry(g);
  rtcAttachGeometry(scene, g);
  rtcCommitScene(scene);
  double build = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - t0).count();
  struct Answer { float t; uint32_t prim; };
  std::vector<Answer> out(m);
  double best = 0;
  size_t hits = 0;
  for (int r = 0; r < reps; r++) {
    hits = 0;
    double from = cpu();
    RTCIntersectContext ctx;
    rtcInitIntersectContext(&ctx);
    ctx.flags = RTC_INTERSECT_CONTEXT_FLAG_INCOHERENT;
    for (size_t i = 0; i < m; i++) {
      const float *p = &ray[i * 8];
      if (any) {
        RTCRay q{};
        q.org_x = p[0]; q.org_y = p[1]; q.org_z = p[2]; q.tnear = p[3];
        q.dir_x = p[4]; q.dir_y = p[5]; q.dir_z = p[6]; q.tfar = p[7]; q.mask = -1;
        rtcOccluded1(scene, &ctx, &q);
        bool b = q.tfar < 0;
        out[i] = {b ? 0.f : INFINITY, 0xffffffffu};
        hits += b;
      } else {
        RTCRayHit q{};
        q.ray.org_x = p[0]; q.ray.org_y = p[1]; q.ray.org_z = p[2]; q.ray.tnear = p[3];
        q.ray.dir_x = p[4]; q.ray.dir_y = p[5]; q.ray.dir_z = p[6]; q.ray.tfar = p[7]; q.ray.mask = -1;
        q.hit.geomID = q.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
        rtcIntersect1(scene, &ctx, &q);
        bool b = q.hit.geomID != RTC_INVALID_GEOMETRY_ID;
        out[i] = {b ? q.ray.tfar : INFINITY, b ? q.hit.primID : 0xffffffffu};
        hits += b;
      }
    }
    double s = cpu() - from;
    if (m / s / 1e6 > best) best = m / s / 1e6;
  }
  FILE *f = fopen(argv[6], "wb");
  fwrite(out.data(), 8, m, f);
  fclose(f);
  printf("{\"mrays_cpu\":%.4f,\"build_ms\":%.1f,\"hits\":%zu}\n", best, build, hits);
}
