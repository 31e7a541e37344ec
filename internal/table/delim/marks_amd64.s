#include "textflag.h"

// MATCH sets the bits of out for the 64 bytes in X3 to X6 that equal those of p.
#define MATCH(p, out) \
	MOVO X3, X7 \
	PCMPEQB p, X7 \
	PMOVMSKB X7, out \
	MOVO X4, X7 \
	PCMPEQB p, X7 \
	PMOVMSKB X7, R8 \
	SHLQ $16, R8 \
	ORQ R8, out \
	MOVO X5, X7 \
	PCMPEQB p, X7 \
	PMOVMSKB X7, R8 \
	SHLQ $32, R8 \
	ORQ R8, out \
	MOVO X6, X7 \
	PCMPEQB p, X7 \
	PMOVMSKB X7, R8 \
	SHLQ $48, R8 \
	ORQ R8, out

// func findSSE2(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64)
TEXT ·findSSE2(SB), NOSPLIT, $0-56
	MOVQ text+0(FP), SI
	MOVQ groups+8(FP), DX
	MOVQ out+16(FP), DI
	MOVQ a+24(FP), X0
	PUNPCKLQDQ X0, X0
	MOVQ b+32(FP), X1
	PUNPCKLQDQ X1, X1
	MOVQ c+40(FP), X2
	PUNPCKLQDQ X2, X2
	PXOR X8, X8 // all bytes together: the top bit tells bytes beyond ASCII
	PCMPEQB X9, X9 // the least of the bytes: zero where one is
	TESTQ DX, DX
	JLE done
loop:
	MOVOU 0(SI), X3
	MOVOU 16(SI), X4
	MOVOU 32(SI), X5
	MOVOU 48(SI), X6
	POR X3, X8
	PMINUB X3, X9
	POR X4, X8
	PMINUB X4, X9
	POR X5, X8
	PMINUB X5, X9
	POR X6, X8
	PMINUB X6, X9
	MATCH(X0, AX)
	MATCH(X1, BX)
	MATCH(X2, CX)
	MOVQ AX, 0(DI)
	MOVQ BX, 8(DI)
	MOVQ CX, 16(DI)
	ADDQ $64, SI
	ADDQ $24, DI
	DECQ DX
	JNE loop
done:
	PXOR X7, X7
	PCMPEQB X7, X9
	PMOVMSKB X9, AX
	PMOVMSKB X8, BX
	ORQ BX, AX
	MOVQ AX, odd+48(FP)
	RET

// MATCH32 is MATCH for the 64 bytes in Y3 and Y4.
#define MATCH32(p, out) \
	VPCMPEQB p, Y3, Y5 \
	VPCMPEQB p, Y4, Y6 \
	VPMOVMSKB Y5, out \
	VPMOVMSKB Y6, R8 \
	SHLQ $32, R8 \
	ORQ R8, out

// func findAVX2(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64)
TEXT ·findAVX2(SB), NOSPLIT, $0-56
	MOVQ text+0(FP), SI
	MOVQ groups+8(FP), DX
	MOVQ out+16(FP), DI
	VPBROADCASTQ a+24(FP), Y0
	VPBROADCASTQ b+32(FP), Y1
	VPBROADCASTQ c+40(FP), Y2
	VPXOR Y8, Y8, Y8
	VPCMPEQB Y9, Y9, Y9
	TESTQ DX, DX
	JLE found
next:
	VMOVDQU 0(SI), Y3
	VMOVDQU 32(SI), Y4
	VPOR Y3, Y8, Y8
	VPMINUB Y3, Y9, Y9
	VPOR Y4, Y8, Y8
	VPMINUB Y4, Y9, Y9
	MATCH32(Y0, AX)
	MATCH32(Y1, BX)
	MATCH32(Y2, CX)
	MOVQ AX, 0(DI)
	MOVQ BX, 8(DI)
	MOVQ CX, 16(DI)
	ADDQ $64, SI
	ADDQ $24, DI
	DECQ DX
	JNE next
found:
	VPXOR Y7, Y7, Y7
	VPCMPEQB Y7, Y9, Y9
	VPMOVMSKB Y9, AX
	VPMOVMSKB Y8, BX
	ORQ BX, AX
	VZEROUPPER
	MOVQ AX, odd+48(FP)
	RET

// func cut(cells *table.Span, marks *uint64, groups int, from, base uint32) (n int, next uint32)
TEXT ·cut(SB), NOSPLIT, $0-44
	MOVQ cells+0(FP), DI
	MOVQ marks+8(FP), SI
	MOVQ groups+16(FP), DX
	MOVL from+24(FP), AX
	MOVL base+28(FP), BX
	MOVQ DI, R15
	TESTQ DX, DX
	JLE ready
group:
	MOVQ 0(SI), R8 // where cells end
	MOVQ 16(SI), R13 // where quoted cells end
	TESTQ R8, R8
	JEQ empty
	TESTQ R13, R13
	JNE quoted
cell:
	BSFQ R8, R9
	ADDL BX, R9
	MOVL AX, 0(DI)
	MOVL R9, R10
	SUBL AX, R10
	MOVL R10, 4(DI)
	LEAL 1(R9), AX
	ADDQ $8, DI
	LEAQ -1(R8), R11
	ANDQ R11, R8
	JNE cell
	JMP empty
quoted:
	BSFQ R8, R9
	XORL R12, R12
	BTQ R9, R13
	SETCS R12
	ADDL BX, R9
	LEAL 0(AX)(R12*1), R10
	MOVL R10, 0(DI)
	MOVL R9, R10
	SUBL AX, R10
	SUBL R12, R10
	SUBL R12, R10
	SHLL $29, R12
	ADDL R12, R10
	MOVL R10, 4(DI)
	LEAL 1(R9), AX
	ADDQ $8, DI
	LEAQ -1(R8), R11
	ANDQ R11, R8
	JNE quoted
empty:
	ADDQ $24, SI
	ADDL $64, BX
	DECQ DX
	JNE group
ready:
	SUBQ R15, DI
	SHRQ $3, DI
	MOVQ DI, n+32(FP)
	MOVL AX, next+40(FP)
	RET
