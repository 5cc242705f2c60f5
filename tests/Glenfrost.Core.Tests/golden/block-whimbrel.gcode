; Glenfrost 0.0.0, 2026-11-23 09:30 UTC
; piece: Block
; plan: a block of two layers
; printer: Whimbrel 300, nozzle 0.4 mm, dialect macro, E relative
; limits: nozzle 170 to 296 C (heater, 300 C less 4 C of heater overshoot), bed 120 C, 300 x 300 x 320 mm, 350 mm/s, 8000 mm/s2
; bead: rectangular, width x height, line 0.44 mm, 2 walls, inner first
; filament: 1.75 mm, multiplier 1, flow at most 8 mm3/s
; retraction: 0.8 mm at 30 mm/s, wipe 1 mm, hop 0 mm
; least layer time: 10 s, at 10 mm/s or more
; foreseen: 1 min after heating, 0 g, 0.02 m of filament
; checkpoint: layer 1, 0:00:00: 235 C, base
; checkpoint: layer 2, 0:00:10: 230 C, section 1
; nozzle and bed burn, moving axes pinch, hot plastic gives off fumes: ventilate and stand by
; start code of the printer
M140 S102.5
M104 S235
G28
M190 S102.5
M109 S235
; print begins
M141 S40
M140 S102.5
M104 S235
M190 S102.5
M109 S235
G21
G90
M83
G92 E0
SET_VELOCITY_LIMIT ACCEL=1500
SET_PRESSURE_ADVANCE ADVANCE=0.04
G0 Z0.3 F600
; prime line
G0 X-140 Y-145 F7200
G1 X-60 E5.26841 F1200
G0 Y-144.56 F7200
G1 X-140 E5.2684 F1200
G1 E-0.8 F1800
; layer 1, z 0.3, base
M107
G0 X-7.22 Y5.72 F7200
G1 E0.8 F1500
; skirt
G1 X7.22 E0.79246 F600
G1 Y-5.72 E0.62782
G1 X-7.22 E0.79245
G1 Y5.72 E0.62782
G1 X-6.22 E-0.8 F2250
G0 X-2.34 Y0.84 F7200
G1 E0.8 F1500
; inner wall
G1 X2.34 E0.25683 F600
G1 Y-0.84 E0.0922
G1 X-2.34 E0.25684
G1 Y0.84 E0.09219
G0 X-2.78 Y1.28 F7200
; outer wall
G1 X2.78 E0.30513 F600
G1 Y-1.28 E0.14049
G1 X-2.78 E0.30513
G1 Y1.28 E0.14049
G1 X-1.78 E-0.8 F2250
G0 X-1.913 Y-0.413 F7200
G1 E0.8 F1500
; solid fill
G1 X1.913 E0.2039 F600
G1 Y0 E0.02202
G1 X-1.913 E0.2039
G1 Y0.413 E0.02203
G1 X1.913 E0.20389
; layer 2, z 0.6, section 1
M104 S230 ; section 1 from layer 2, z 0.3 up: 230 C
G1 X0.913 E-0.8 F2250
G0 Z0.6 F7200
G0 X-2.34 Y0.84
G1 E0.8 F1500
; inner wall
G1 X2.34 E0.25684 F600
G1 Y-0.84 E0.0922
G1 X-2.34 E0.25683
G1 Y0.84 E0.0922
G0 X-2.78 Y1.28 F7200
; outer wall
G1 X2.78 E0.30513 F600
G1 Y-1.28 E0.14049
G1 X-2.78 E0.30513
G1 Y1.28 E0.14049
G1 X-1.78 E-0.8 F2250
G0 X-1.913 Y-0.413 F7200
G1 E0.8 F1500
; top fill
G1 X1.913 E0.2039 F600
G1 Y0 E0.02202
G1 X-1.913 E0.2039
G1 Y0.413 E0.02202
G1 X1.913 E0.2039
; away from the piece
G1 E-0.8 F1800
G0 Z5.6 F600
; print ends; end code of the printer
M104 S0
M140 S0
M107
G28 X0
M84
M104 S0
M140 S0
