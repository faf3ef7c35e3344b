; Every way to an operand, pages crossed and not.
        .export _main
        .bss
table:  .res 600
        .zeropage
pointer: .res 2
sum:    .res 1
        .code
_main:  lda #<table
        sta pointer
        lda #>table
        sta pointer+1
        ldx #0
        stx sum
fill:   txa
        sta table,x
        eor #$5A
        sta table+256,x
        inx
        bne fill
        ldy #0
loop:   lda (pointer),y
        jsr mix
        lda table+200,y
        jsr mix
        tya
        tax
        lda table+100,x
        jsr mix
        ldx table+3
        stx $E0
        lda #$E0
        sta $E8
        lda #0
        sta $E9
        ldx #8
        lda ($E0,x)
        jsr mix
        sty $E4
        ldx #4
        inc $E0,x
        lda $E0,x
        jsr mix
        iny
        bne loop
        lda sum
        ldx #0
        rts
mix:    eor sum
        lsr
        bcc @no
        eor #$B8
@no:    sta sum
        rts
