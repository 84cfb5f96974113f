/**
 * The kernel's Math (asc --use Math=KernelMath): minimax polynomials on short ranges in place of the standard library's tables and case
 * distinctions, within 2e-13 (exp) and 4e-15 (the others) of the true value relative to it (tests/unit/elementary.test.ts), at a third to a half of the time. What is
 * not here in a form of its own is the standard library's. Polynomials by Remez' algorithm in 60 digits.
 */

/** 2 to the power of i / 32. */
const POWERS: usize = memory.data<f64>(
  [
    1.0, 1.0218971486541166, 1.0442737824274138, 1.0671404006768237, 1.0905077326652577, 1.1143867425958924, 1.1387886347566916,
    1.1637248587775775, 1.189207115002721, 1.215247359980469, 1.241857812073484, 1.2690509571917332, 1.2968395546510096, 1.3252366431597413,
    1.3542555469368927, 1.383909881963832, 1.4142135623730951, 1.4451808069770467, 1.4768261459394993, 1.5091644275934228,
    1.5422108254079407, 1.5759808451078865, 1.6104903319492543, 1.645755478153965, 1.681792830507429, 1.718619298122478, 1.7562521603732995,
    1.7947090750031072, 1.8340080864093424, 1.8741676341103, 1.9152065613971474, 1.9571441241754002,
  ],
  16,
);
/** Digits after the point are rounded off by adding this: what is left is a whole number, in the low bits too. */
const WHOLE: f64 = 6755399441055744.0;
const PER_LN2: f64 = 46.16624130844683;
/** ln 2 / 32, ln 2 and π / 2 in two parts, the first with so few digits that whole multiples of it are exact. */
const STEP_HIGH: f64 = 0.021660849219188094;
const STEP_LOW: f64 = 1.733101967801894e-10;
const LN2_HIGH: f64 = 6.9314718036912381649e-1;
const LN2_LOW: f64 = 1.90821492927058770002e-10;
const PI: f64 = 3.141592653589793;
const PI_2: f64 = 1.5707963267948966;
const PI_2_HIGH: f64 = 1.570796325802803;
const PI_2_LOW: f64 = 9.920935796805404e-10;
const PI_4: f64 = 0.7853981633974483;
const TAN_PI_8: f64 = 0.41421356237309503;
const TAN_3PI_8: f64 = 2.414213562373095;
const SQRT2: f64 = 1.4142135623730951;

/** Coefficients lie in memory: the engine builds each constant in the code anew where it is used. */
const GROWTH: usize = memory.data<f64>(
  [
    1.0000000000000018, 0.49999999999999345, 0.16666666666598215, 0.041666666667297736, 0.00833333337574779, 0.0013888888732834117,
    0.00019841177969708203, 2.480170785022133e-5, 2.7638467334989127e-6, 2.7557293272542e-7,
  ],
  16,
);
const ARTANH: usize = memory.data<f64>(
  [
    1.0000000000000002, 0.3333333333327541, 0.20000000031325207, 0.14285707938999517, 0.11111722333686569, 0.09060803216367809,
    0.08420813687872485,
  ],
  16,
);
const SINE: usize = memory.data<f64>(
  [
    -0.16666666666666613, 0.008333333333319868, -0.00019841269828298517, 2.7557313263304916e-6, -2.5050700223580938e-8,
    1.589380680253651e-10,
  ],
  16,
);
const COSINE: usize = memory.data<f64>(
  [
    -0.5, 0.04166666666666643, -0.0013888888888858655, 2.4801587282747375e-5, -2.7557312826995357e-7, 2.0875550283118945e-9,
    -1.1351884093811717e-11,
  ],
  16,
);
const ARCTAN: usize = memory.data<f64>(
  [
    0.9999999999999991, -0.33333333333223564, 0.1999999997869245, -0.14285712677794163, 0.11111049282669065, -0.090895362814591,
    0.07673589204919018, -0.06506242785458016, 0.050254149840312616, -0.025322944063049687,
  ],
  16,
);

/** The pair of coefficients at `at`, of degree 0 and 1. */
// @ts-ignore: decorator
@inline
function two(at: usize, x: f64): f64 {
  return load<f64>(at) + load<f64>(at, 8) * x;
}

/** (eˣ − 1) / x on |x| ≤ 0.36, within 2e-15. */
// @ts-ignore: decorator
@inline
function growth(x: f64): f64 {
  const x2 = x * x,
    x4 = x2 * x2;
  return (
    two(GROWTH, x) + two(GROWTH + 16, x) * x2 + (two(GROWTH + 32, x) + two(GROWTH + 48, x) * x2) * x4 + two(GROWTH + 64, x) * (x4 * x4)
  );
}

/** artanh(s) / s by z = s² ≤ 0.0295, within 2e-16. */
// @ts-ignore: decorator
@inline
function artanhPart(z: f64): f64 {
  const z2 = z * z;
  return two(ARTANH, z) + two(ARTANH + 16, z) * z2 + (two(ARTANH + 32, z) + load<f64>(ARTANH, 48) * z2) * (z2 * z2);
}

/** sin(x) of |x| ≤ π / 4, by z = x². */
// @ts-ignore: decorator
@inline
function sinNear(x: f64, z: f64): f64 {
  const z2 = z * z;
  return x + x * z * (two(SINE, z) + two(SINE + 16, z) * z2 + two(SINE + 32, z) * (z2 * z2));
}

/** cos(x) of |x| ≤ π / 4, by z = x². */
// @ts-ignore: decorator
@inline
function cosNear(z: f64): f64 {
  const z2 = z * z;
  return 1.0 + z * (two(COSINE, z) + two(COSINE + 16, z) * z2 + (two(COSINE + 32, z) + load<f64>(COSINE, 48) * z2) * (z2 * z2));
}

/** arctan of |x| ≤ tan(π / 8). */
// @ts-ignore: decorator
@inline
function atanNear(x: f64): f64 {
  const z = x * x,
    z2 = z * z,
    z4 = z2 * z2;
  return (
    x *
    (two(ARCTAN, z) + two(ARCTAN + 16, z) * z2 + (two(ARCTAN + 32, z) + two(ARCTAN + 48, z) * z2) * z4 + two(ARCTAN + 64, z) * (z4 * z4))
  );
}

/** Angles past which a whole number of quarter turns is no longer taken off well enough. */
const FAR_ANGLE: f64 = 1e5;

/** What the kernel calls Math. */
export namespace KernelMath {
  // @ts-ignore: decorator
  @inline
  export function abs(x: f64): f64 {
    return f64.abs(x);
  }
  // @ts-ignore: decorator
  @inline
  export function sqrt(x: f64): f64 {
    return f64.sqrt(x);
  }
  // @ts-ignore: decorator
  @inline
  export function floor(x: f64): f64 {
    return f64.floor(x);
  }
  // @ts-ignore: decorator
  @inline
  export function ceil(x: f64): f64 {
    return f64.ceil(x);
  }
  // @ts-ignore: decorator
  @inline
  export function min(a: f64, b: f64): f64 {
    return f64x2.extract_lane(f64x2.pmin(f64x2.splat(a), f64x2.splat(b)), 0);
  }
  // @ts-ignore: decorator
  @inline
  export function max(a: f64, b: f64): f64 {
    return f64x2.extract_lane(f64x2.pmax(f64x2.splat(a), f64x2.splat(b)), 0);
  }

  /** eˣ; 0 where it would be less than the least number with all its digits. */
  export function exp(x: f64): f64 {
    if (!(x > -708.0)) return x == x ? 0.0 : x;
    if (x > 709.0) return NativeMath.exp(x);
    const t = x * PER_LN2 + WHOLE;
    const whole = t - WHOLE;
    const k = <i32>reinterpret<i64>(t);
    const r = x - whole * STEP_HIGH - whole * STEP_LOW;
    // eʳ − 1 on |r| ≤ ln 2 / 64, within 2e-13
    const p = r + r * r * (0.5000000000500749 + r * (0.16666751789320383 + r * 0.04166627564536652));
    const power = reinterpret<f64>(load<i64>(POWERS + ((<usize>(k & 31)) << 3)) + ((<i64>(k >> 5)) << 52));
    return power + power * p;
  }

  /** eˣ − 1, all digits of it near 0 too. */
  export function expm1(x: f64): f64 {
    return f64.abs(x) <= 0.36 ? x * growth(x) : exp(x) - 1.0;
  }

  /** Natural logarithm. */
  export function log(x: f64): f64 {
    if (!(x >= 2.2250738585072014e-308 && x < Infinity)) return NativeMath.log(x);
    let bits = reinterpret<i64>(x);
    let k = <i32>(bits >> 52) - 1023;
    let m = reinterpret<f64>((bits & 0xfffffffffffff) | 0x3ff0000000000000);
    if (m > SQRT2) {
      m *= 0.5;
      k++;
    }
    const s = (m - 1.0) / (m + 1.0);
    const e = <f64>k;
    return e * LN2_HIGH + (2.0 * s * artanhPart(s * s) + e * LN2_LOW);
  }

  /** Logarithm of 1 + x, all digits of it near 0 too. */
  export function log1p(x: f64): f64 {
    if (!(f64.abs(x) <= 0.29)) return log(1.0 + x);
    const s = x / (2.0 + x);
    return 2.0 * s * artanhPart(s * s);
  }

  /** Sine of an angle in radians. */
  export function sin(x: f64): f64 {
    if (!(f64.abs(x) < FAR_ANGLE)) return NativeMath.sin(x);
    const t = x * (1.0 / PI_2) + WHOLE;
    const k = t - WHOLE;
    const r = x - k * PI_2_HIGH - k * PI_2_LOW,
      z = r * r;
    const quarter = <i32>reinterpret<i64>(t);
    const y = quarter & 1 ? cosNear(z) : sinNear(r, z);
    return quarter & 2 ? -y : y;
  }

  /** Cosine of an angle in radians. */
  export function cos(x: f64): f64 {
    if (!(f64.abs(x) < FAR_ANGLE)) return NativeMath.cos(x);
    const t = x * (1.0 / PI_2) + WHOLE;
    const k = t - WHOLE;
    const r = x - k * PI_2_HIGH - k * PI_2_LOW,
      z = r * r;
    const quarter = <i32>reinterpret<i64>(t);
    const y = quarter & 1 ? sinNear(r, z) : cosNear(z);
    return (quarter + 1) & 2 ? -y : y;
  }

  /** Tangent of an angle in radians. */
  export function tan(x: f64): f64 {
    if (!(f64.abs(x) < FAR_ANGLE)) return NativeMath.tan(x);
    const t = x * (1.0 / PI_2) + WHOLE;
    const k = t - WHOLE;
    const r = x - k * PI_2_HIGH - k * PI_2_LOW,
      z = r * r;
    const s = sinNear(r, z),
      c = cosNear(z);
    return (<i32>reinterpret<i64>(t)) & 1 ? -c / s : s / c;
  }

  /** Arctangent, radians. */
  export function atan(x: f64): f64 {
    const a = f64.abs(x);
    let y: f64;
    if (a <= TAN_PI_8) y = atanNear(a);
    else if (a <= TAN_3PI_8) y = PI_4 + atanNear((a - 1.0) / (a + 1.0));
    else y = PI_2 + atanNear(-1.0 / a);
    return f64.copysign(y, x);
  }

  /** Angle of (x, y) from the x axis, radians in (-π, π]. */
  export function atan2(y: f64, x: f64): f64 {
    const a = f64.abs(y),
      b = f64.abs(x);
    if (!(a + b > 0.0) || !(a + b < Infinity)) return NativeMath.atan2(y, x);
    const angle = a <= b ? atan(a / b) : PI_2 - atan(b / a);
    return f64.copysign(x < 0.0 ? PI - angle : angle, y);
  }
  // @ts-ignore: decorator
  @inline
  export function acos(x: f64): f64 {
    return NativeMath.acos(x);
  }
  // @ts-ignore: decorator
  @inline
  export function cbrt(x: f64): f64 {
    return NativeMath.cbrt(x);
  }
  // @ts-ignore: decorator
  @inline
  export function pow(x: f64, y: f64): f64 {
    return NativeMath.pow(x, y);
  }
}
