"""Where lines run: ends, bends, lengths and clocks in space. Millimetres here, as they are drawn
and cut; x forward, y to the left, z up in a car.
"""
