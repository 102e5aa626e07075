;%UNITS=MM
; Hatches for a boathouse: invented, in millimetres on paper.
*CLINKER, Clinker planks
0, 0,0, 0,3.2
0, 0,0.5, 0,3.2, 6,-1.5
*ROPE, Twisted rope
60, 0,0, 1.2,2, 2.2,-1.4
120, 0,0, -1.2,2, 1.4,-2.2
*REED, Reed mat
90, 0,0, 1.7,0.9, 5,-0.6,2,-0.6
90, 0.45,1, 2.3,2.7, 0,-1.1
*BOND, Facing bricks in bond
0, 0,0, 0,2.5
90, 0,0, 2.5,4, 2.5,-2.5
*MORTAR, Mortar
0, 0,0, 1.9,1.3, 0,-2.1
37, 0.4,0.7, 1.1,1.9, 0.3,-2.6,0,-1.3
