"""Constants and the factors between document units and SI. Each is exact unless it says otherwise."""

GRAVITY = 9.80665  # m/s2, standard acceleration of free fall (CGPM 1901)
CELSIUS = 273.15  # K at 0 degC
KPA = 1000.0  # Pa in one kPa
KW = 1000.0  # W in one kW
LPH = 1 / 3.6e6  # m3/s in one L/h
CC_MIN = 1e-6 / 60  # m3/s in one cc/min
HORSEPOWER = 745.69987158227  # W, 550 ft lbf/s
PSI = 6894.757293168  # Pa, lbf/in2
POUND = 0.45359237  # kg
HOUR = 3600.0  # s
INCH_MM = 25.4  # mm, by definition
