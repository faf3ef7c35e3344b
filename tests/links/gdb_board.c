/* A program whose board is an array at a known address, for a debug server to show. */
#include <unistd.h>

__attribute__((section(".board"))) volatile unsigned char board[4096] = {1};

int main(void)
{
    board[0] = 2;
    pause();
    return 0;
}
