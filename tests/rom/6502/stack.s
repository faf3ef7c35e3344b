; The stack, subroutines, transfers and indirect jumps.
        .export _main
        .zeropage
sum:    .res 1
target: .res 2
        .code
_main:  ldx #0
        stx sum
loop:   txa
        pha
        tay
        php
        pla
        and #$3C^$FF
        eor sum
        sta sum
        tsx
        txa
        eor sum
        sta sum
        pla
        tax
        tya
        lsr
        bcs odd
        lda #<even
        sta target
        lda #>even
        sta target+1
        jmp (target)
even:   jsr twice
        jmp next
odd:    lda #>(back-1)
        pha
        lda #<(back-1)
        pha
        rts
back:   inc sum
next:   inx
        bne loop
        lda sum
        ldx #0
        rts
twice:  jsr once
once:   asl sum
        bcc @no
        inc sum
@no:    rts
