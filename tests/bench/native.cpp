// Native Embree on the triangles and rays of tests/bench/rays.ts, one thread. Prints best seconds and what was hit.
#include <embree3/rtcore.h>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cmath>
#include <vector>
#include <xmmintrin.h>
#include <pmmintrin.h>

static std::vector<float> numbers(const char* name) {
  FILE* f = fopen(name, "rb");
  if (!f) { fprintf(stderr, "%s: cannot be read\n", name); exit(1); }
  fseek(f, 0, SEEK_END);
  std::vector<float> v(ftell(f) / 4);
  rewind(f);
  if (fread(v.data(), 4, v.size(), f) != v.size()) exit(1);
  fclose(f);
  return v;
}

// native TRIANGLES RAYS CLOSEST-OUT ANY-OUT TRIES
int main(int argc, char** argv) {
  if (argc != 6) return 2;
  _MM_SET_FLUSH_ZERO_MODE(_MM_FLUSH_ZERO_ON);
  _MM_SET_DENORMALS_ZERO_MODE(_MM_DENORMALS_ZERO_ON);
  const std::vector<float> positions = numbers(argv[1]), rays = numbers(argv[2]);
  const size_t corners = positions.size() / 3, count = rays.size() / 8;
  RTCDevice device = rtcNewDevice("threads=1");
  RTCScene scene = rtcNewScene(device);
  rtcSetSceneBuildQuality(scene, RTC_BUILD_QUALITY_HIGH);
  RTCGeometry geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  float* v = (float*)rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, corners);
  unsigned* t = (unsigned*)rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, corners / 3);
  for (size_t i = 0; i < positions.size(); i++) v[i] = positions[i];
  for (size_t i = 0; i < corners; i++) t[i] = (unsigned)i;
  rtcCommitGeometry(geometry);
  rtcAttachGeometry(scene, geometry);
  rtcCommitScene(scene);
  for (int any = 0; any < 2; any++) {
    std::vector<float> out(count);
    double best = 1e30;
    for (int round = 0; round < atoi(argv[5]); round++) {
      const auto from = std::chrono::steady_clock::now();
      for (size_t i = 0; i < count; i++) {
        const float* r = &rays[8 * i];
        RTCIntersectContext context;
        rtcInitIntersectContext(&context);
        alignas(16) RTCRayHit hit;
        hit.ray.org_x = r[0]; hit.ray.org_y = r[1]; hit.ray.org_z = r[2];
        hit.ray.dir_x = r[4]; hit.ray.dir_y = r[5]; hit.ray.dir_z = r[6];
        hit.ray.tnear = 0; hit.ray.tfar = r[3];
        hit.ray.time = 0; hit.ray.mask = -1; hit.ray.flags = 0;
        hit.hit.geomID = RTC_INVALID_GEOMETRY_ID;
        if (any) {
          rtcOccluded1(scene, &context, &hit.ray);
          out[i] = hit.ray.tfar < 0 ? 1.f : 0.f;
        } else {
          rtcIntersect1(scene, &context, &hit);
          out[i] = hit.ray.tfar;
        }
      }
      const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
      if (seconds < best) best = seconds;
    }
    FILE* f = fopen(argv[3 + any], "wb");
    fwrite(out.data(), 4, count, f);
    fclose(f);
    printf("%.6f\n", best);
  }
  return 0;
}
