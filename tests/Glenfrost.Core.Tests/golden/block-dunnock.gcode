; Glenfrost 0.0.0, 2026-11-23 09:30 UTC
; piece: Block
; plan: a block of two layers
; printer: Dunnock 180, nozzle 0.4 mm, dialect m900, E relative
; limits: nozzle 170 to 237 C (PTFE liner, 240 C less 3 C of heater overshoot), bed 90 C, 180 x 180 x 180 mm, 120 mm/s, 1200 mm/s2
; bead: rectangular, width x height, line 0.44 mm, 2 walls, inner first
; filament: 1.75 mm, multiplier 1, flow at most 8 mm3/s
; retraction: 4 mm at 30 mm/s, wipe 1 mm, hop 0 mm
; least layer time: 10 s, at 10 mm/s or more
; foreseen: 1 min after heating, 0.1 g, 0.02 m of filament
; checkpoint: layer 1, 0:00:00: 235 C, base
; checkpoint: layer 2, 0:00:10: 230 C, section 1
; nozzle and bed burn, moving axes pinch, hot plastic gives off fumes: ventilate and stand by
; start code of the printer
M140 S77.5
M104 S235
G28
M190 S77.5
M109 S235
; print begins
M140 S77.5
M104 S235
M190 S77.5
M109 S235
G21
G90
M83
G92 E0
M204 P1200 T1200
G0 Z0.3 F600
; prime line
G0 X10 Y5 F7200
G1 X90 E5.26841 F1200
G0 Y5.44 F7200
G1 X10 E5.2684 F1200
G1 E-4 F1800
; layer 1, z 0.3, base
M107
G0 X82.78 Y95.72 F7200
G1 E4 F1500
; skirt
G1 X97.22 E0.79246 F637
G1 Y84.28 E0.62782
G1 X82.78 E0.79245
G1 Y95.72 E0.62782
G1 X83.78 E-4 F450
G0 X87.66 Y90.84 F7200
G1 E4 F1500
; inner wall
G1 X92.34 E0.25683 F637
G1 Y89.16 E0.0922
G1 X87.66 E0.25684
G1 Y90.84 E0.09219
G0 X87.22 Y91.28 F7200
; outer wall
G1 X92.78 E0.30513 F637
G1 Y88.72 E0.14049
G1 X87.22 E0.30513
G1 Y91.28 E0.14049
G1 X88.22 E-4 F450
G0 X88.087 Y89.587 F7200
G1 E4 F1500
; solid fill
G1 X91.913 E0.2039 F637
G1 Y90 E0.02202
G1 X88.087 E0.2039
G1 Y90.413 E0.02203
G1 X91.913 E0.20389
; layer 2, z 0.6, section 1
M104 S230 ; section 1 from layer 2, z 0.3 up: 230 C
G1 X90.913 E-4 F450
G0 Z0.6 F7200
G0 X87.66 Y90.84
G1 E4 F1500
; inner wall
G1 X92.34 E0.25684 F600
G1 Y89.16 E0.0922
G1 X87.66 E0.25683
G1 Y90.84 E0.0922
G0 X87.22 Y91.28 F7200
; outer wall
G1 X92.78 E0.30513 F600
G1 Y88.72 E0.14049
G1 X87.22 E0.30513
G1 Y91.28 E0.14049
G1 X88.22 E-4 F450
G0 X88.087 Y89.587 F7200
G1 E4 F1500
; top fill
G1 X91.913 E0.2039 F600
G1 Y90 E0.02202
G1 X88.087 E0.2039
G1 Y90.413 E0.02202
G1 X91.913 E0.2039
; away from the piece
G1 E-4 F1800
G0 Z5.6 F600
; print ends; end code of the printer
M104 S0
M140 S0
M107
G28 X0
M84
M104 S0
M140 S0
