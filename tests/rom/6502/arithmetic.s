; All sums and differences of two bytes, binary and decimal (of digits), into one check.
        .export _main
        .import popax
        .zeropage
sum:    .res 1
one:    .res 1
two:    .res 1
        .code
_main:  lda #0
        sta sum
        sta one
        sta two
loop:   clc
        lda one
        adc two
        jsr add
        lda one
        sec
        sbc two
        jsr add
        lda one
        cmp two
        php
        pla
        and #$C3        ; N, V, Z and C
        jsr add
        sed
        lda one
        and #$77        ; digits
        sta $F0
        lda two
        and #$77
        sta $F1
        clc
        lda $F0
        adc $F1
        jsr add
        sec
        lda $F0
        sbc $F1
        cld
        jsr add
        inc two
        bne loop
        inc one
        bne loop
        lda sum
        ldx #0
        rts
add:    php
        asl sum
        bcc @no
        inc sum
@no:    eor sum
        sta sum
        plp
        adc #0
        rts
