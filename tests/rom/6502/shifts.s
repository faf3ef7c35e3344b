; Shifts and rotations of every byte, in A and in memory.
        .export _main
        .zeropage
sum:    .res 1
value:  .res 1
        .code
_main:  ldx #0
        stx sum
loop:   stx value
        asl value
        rol sum
        stx value
        lsr value
        ror sum
        txa
        asl
        eor sum
        rol
        sta sum
        txa
        lsr
        adc sum
        ror
        sta sum
        bit value
        bvc @no
        inc sum
@no:    bpl @yes
        dec sum
@yes:   inx
        bne loop
        lda sum
        rts
