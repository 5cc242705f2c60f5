; Glenfrost 0.0.0, 2026-11-23 09:30 UTC
; piece: Block
; plan: a block of two layers
; printer: Ptarmigan 350 right, toolhead 1, nozzle 0.6 mm, dialect m572, E absolute
; limits: nozzle 170 to 282 C (heater, 285 C less 3 C of heater overshoot), bed 110 C, 350 x 350 x 400 mm, 200 mm/s, 3000 mm/s2
; bead: rectangular, width x height, line 0.66 mm, 2 walls, inner first
; filament: 1.75 mm, multiplier 1, flow at most 12 mm3/s
; retraction: 0.8 mm at 30 mm/s, wipe 1 mm, hop 0 mm
; least layer time: 10 s, at 10 mm/s or more
; foreseen: 1 min after heating, 0.1 g, 0.02 m of filament
; checkpoint: layer 1, 0:00:00: 235 C, base
; checkpoint: layer 2, 0:00:09: 230 C, section 1
; nozzle and bed burn, moving axes pinch, hot plastic gives off fumes: ventilate and stand by
; start code of the printer
T1
G28
M190 S77.5 ; {bed}
M109 T1 S235
; print begins
M140 S77.5
M104 S235
M190 S77.5
M109 S235
G21
G90
M82
G92 E0
M204 P1500 T1500
M572 S0.04
G0 Z0.3 F600
; prime line
G0 X10 Y5 F7200
G1 X90 E7.90261 F1200
G0 Y5.66 F7200
G1 X10 E15.80522 F1200
G1 E15.00522 F1800
; layer 1, z 0.3, base
G92 E0
M107
G0 X167.67 Y180.83 F7200
G1 E0.8 F1500
; skirt
G1 X182.33 E2.00679 F600
G1 Y169.17 E2.96663
G1 X167.67 E4.17342
G1 Y180.83 E5.13326
G1 X168.67 E4.33326 F2250
G0 X172.99 Y175.51 F7200
G1 E5.13326 F1500
; inner wall
G1 X177.01 E5.46418 F600
G1 Y174.49 E5.54815
G1 X172.99 E5.87907
G1 Y175.51 E5.96303
G0 X172.33 Y176.17 F7200
; outer wall
G1 X177.67 E6.40262 F600
G1 Y173.83 E6.59524
G1 X172.33 E7.03482
G1 Y176.17 E7.22745
G1 X173.33 E6.42745 F2250
G0 X173.5 Y175 F7200
G1 E7.22745 F1500
; solid fill
G1 X176.5 E7.37832 F600
; layer 2, z 0.6, section 1
G92 E0
M104 S230 ; section 1 from layer 2, z 0.3 up: 230 C
G1 X175.5 E-0.8 F2250
G0 X169 Y170.5 F7200
M109 R230
G0 Z0.6
G0 X172.99 Y175.51
G1 E0 F1500
; inner wall
G1 X177.01 E0.33092 F600
G1 Y174.49 E0.41489
G1 X172.99 E0.74581
G1 Y175.51 E0.82977
G0 X172.33 Y176.17 F7200
; outer wall
G1 X177.67 E1.26936 F600
G1 Y173.83 E1.46198
G1 X172.33 E1.90156
G1 Y176.17 E2.09419
G1 X173.33 E1.29419 F2250
G0 X173.5 Y175 F7200
G1 E2.09419 F1500
; solid fill
G1 X176.5 E2.24506 F600
; away from the piece
G1 E1.44506 F1800
G0 Z5.6 F600
; print ends; end code of the printer
M104 S0
M140 S0
M107
G28 X0
M84
M104 T1 S0
M140 S0
