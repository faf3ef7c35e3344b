/* The threads of the port: a stretch is divided among them, and all are waited for. */
#include "internal.h"

static void *work(void *context)
{
    ram_part *part = context;
    rmg_ram *ram = part->ram;
    uint64_t seen = 0;

    pthread_mutex_lock(&ram->turn_lock);
    for (;;) {
        while (ram->turn == seen && !ram->over)
            pthread_cond_wait(&ram->turn_begins, &ram->turn_lock);
        if (ram->over)
            break;
        seen = ram->turn;
        pthread_mutex_unlock(&ram->turn_lock);
        rmg_ram_run_part(part);
        pthread_mutex_lock(&ram->turn_lock);
        if (!--ram->at_work)
            pthread_cond_signal(&ram->turn_ends);
    }
    pthread_mutex_unlock(&ram->turn_lock);
    return NULL;
}

rmg_status rmg_ram_start_threads(rmg_ram *ram)
{
    pthread_mutex_init(&ram->turn_lock, NULL);
    pthread_mutex_init(&ram->sink_lock, NULL);
    pthread_cond_init(&ram->turn_begins, NULL);
    pthread_cond_init(&ram->turn_ends, NULL);
    for (unsigned i = 0; i < ram->threads; i++)
        ram->parts[i].ram = ram;
    for (unsigned i = 1; i < ram->threads; i++, ram->started++)
        if (pthread_create(&ram->workers[i], NULL, work, &ram->parts[i]) != 0)
            return RMG_ERR_ROOM;
    return RMG_OK;
}

void rmg_ram_stop_threads(rmg_ram *ram)
{
    pthread_mutex_lock(&ram->turn_lock);
    ram->over = true;
    pthread_cond_broadcast(&ram->turn_begins);
    pthread_mutex_unlock(&ram->turn_lock);
    for (unsigned i = 0; i < ram->started; i++)
        pthread_join(ram->workers[i + 1u], NULL);
    pthread_cond_destroy(&ram->turn_ends);
    pthread_cond_destroy(&ram->turn_begins);
    pthread_mutex_destroy(&ram->sink_lock);
    pthread_mutex_destroy(&ram->turn_lock);
}

void rmg_ram_run_parts(rmg_ram *ram, rmg_element_call *call, uint64_t first, uint64_t count)
{
    const unsigned threads = count < 4096u ? 1 : ram->threads;
    const uint64_t share = (count / threads) & ~(uint64_t)63;

    for (unsigned i = 0; i < ram->threads; i++) {
        ram->parts[i].call = call;
        ram->parts[i].first = first + i * share;
        ram->parts[i].count = i + 1u < threads ? share : i < threads ? count - i * share : 0;
    }
    if (threads == 1) {
        rmg_ram_run_part(&ram->parts[0]);
        return;
    }
    pthread_mutex_lock(&ram->turn_lock);
    ram->turn++;
    ram->at_work = ram->threads - 1u;
    pthread_cond_broadcast(&ram->turn_begins);
    pthread_mutex_unlock(&ram->turn_lock);
    rmg_ram_run_part(&ram->parts[0]);
    pthread_mutex_lock(&ram->turn_lock);
    while (ram->at_work)
        pthread_cond_wait(&ram->turn_ends, &ram->turn_lock);
    pthread_mutex_unlock(&ram->turn_lock);
}
