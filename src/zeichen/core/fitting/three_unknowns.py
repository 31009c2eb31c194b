"""Three unknowns by Gauss, written out: the parabola through points by least squares, a thousand times over."""

from zeichen.core.compiled import uncounted

Three = tuple[float, float, float]
Symmetric = tuple[float, float, float, float, float, float]
# A pivot nearer to nothing than this is as good as none.
_LEAST_PIVOT = 1e-12


@uncounted(cache=True)
def solve_three(a: Symmetric, b: Three) -> tuple[float, float, float, float]:
    """Return the three unknowns of a symmetric system, and its determinant; the first entry is not 0.

    a: what stands on the diagonal and above it, row by row; b: the right-hand side.
    """
    a00, a01, a02, a11, a12, a22 = a
    b0, b1, b2 = b
    p11, p12, p22 = a11 - a01 * a01 / a00, a12 - a01 * a02 / a00, a22 - a02 * a02 / a00
    c1, c2 = b1 - a01 * b0 / a00, b2 - a02 * b0 / a00
    p11 = p11 if abs(p11) > _LEAST_PIVOT else _LEAST_PIVOT
    p22 -= p12 * p12 / p11
    p22 = p22 if abs(p22) > _LEAST_PIVOT else _LEAST_PIVOT
    third = (c2 - p12 * c1 / p11) / p22
    second = (c1 - p12 * third) / p11
    return (b0 - a01 * second - a02 * third) / a00, second, third, a00 * p11 * p22
