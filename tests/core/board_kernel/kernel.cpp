// What stands behind the kernel's calls.
#include "kernel.h"
#include "inside.h"
#include <deque>
#include <list>
#include <ucontext.h>

extern "C" void vApplicationTickHook() __attribute__((weak));
extern "C" void vApplicationIdleHook() __attribute__((weak));
extern void (*held_by)(int64_t us);

const int64_t TICK_US = 1000, NEVER = INT64_MAX;

struct KernelObject {
  bool mutex = false;
  size_t most = 1;
  std::deque<uint8_t> items;
  KernelTask *owner = nullptr;
};

struct KernelTask {
  ucontext_t at;
  std::vector<char> stack = std::vector<char>(64 * 1024);
  void (*body)(void *);
  int own, priority;
  int64_t place = 0, wake = NEVER;
  bool ready = true;
  KernelObject *on = nullptr;
  bool for_space = false;
};

struct KernelTimer {
  int64_t period, due;
  bool again;
  void (*over)(KernelTimer *);
};

static ucontext_t scheduler;
static std::list<KernelTask> &tasks = *new std::list<KernelTask>;  // the end comes on one of their stacks
static std::list<KernelTimer> timers;
static KernelTask *current = nullptr, *daemon_task = nullptr;
static int64_t ticks = 0, zero_us = 0, places = 0;
static bool runs = false;

static void ready(KernelTask &task) {
  task.ready = true;
  task.on = nullptr;
  task.wake = NEVER;
  task.place = ++places;
}

static KernelTask *best() {
  KernelTask *found = nullptr;
  for (KernelTask &task : tasks)
    if (task.ready && (!found || task.priority > found->priority ||
                       (task.priority == found->priority && task.place < found->place)))
      found = &task;
  return found;
}

static void leave() { swapcontext(&current->at, &scheduler); }

// Whoever has a higher priority goes first; at a tick, whoever has the same and waits longer.
static void give_way(bool slice = false) {
  if (!current || !runs) return;
  KernelTask *first = best();
  if (first->priority == current->priority && slice) current->place = ++places;
  if (best() != current && (slice || first->priority > current->priority)) leave();
}

static bool catch_up() {
  bool ticked = false;
  while (runs && clock_us >= zero_us + TICK_US * (ticks + 1)) {
    ++ticks;
    ticked = true;
    for (KernelTask &task : tasks)
      if (!task.ready && task.wake <= ticks) ready(task);
    if (vApplicationTickHook) {
      KernelTask *before = current;
      current = nullptr;  // an interrupt
      vApplicationTickHook();
      current = before;
    }
  }
  if (clock_us > end_us) std::exit(0);
  return ticked;
}

static void work(int64_t us) {
  while (us > 0) {
    const int64_t left_us = zero_us + TICK_US * (ticks + 1) - clock_us;
    const int64_t step_us = !current || us < left_us ? us : left_us > 0 ? left_us : 0;
    clock_us += step_us;
    us -= step_us;
    if (current && catch_up()) give_way(true);
  }
}

// A call: what has become of the time is seen first.
static void called() {
  if (current && catch_up()) give_way(true);
}

static void sleep_until(int64_t tick, KernelObject *on = nullptr, bool for_space = false) {
  current->ready = false;
  current->wake = tick;
  current->on = on;
  current->for_space = for_space;
  current->place = ++places;
  leave();
}

// Below everybody: where it does nothing, up to the next tick.
static void idle_body(void *) {
  for (;;) {
    const int64_t before_us = clock_us;
    if (vApplicationIdleHook) vApplicationIdleHook();
    if (clock_us == before_us) work(zero_us + TICK_US * (ticks + 1) - clock_us);
    called();
  }
}

static void daemon_body(void *) {
  for (;;) {
    int64_t next = NEVER;
    for (KernelTimer &one : timers)
      if (one.due <= ticks) {
        one.due = one.again ? one.due + one.period : NEVER;
        one.over(&one);
      }
    for (KernelTimer &one : timers) next = one.due < next ? one.due : next;
    if (next > ticks) sleep_until(next);
  }
}

static void begin_task() {
  current->body(nullptr);
  std::exit(5);  // a task never ends
}

static KernelTask &made(void (*body)(void *), int priority) {
  tasks.emplace_back();
  KernelTask &task = tasks.back();
  task.body = body;
  task.own = task.priority = priority;
  task.place = ++places;
  getcontext(&task.at);
  task.at.uc_stack.ss_sp = task.stack.data();
  task.at.uc_stack.ss_size = task.stack.size();
  task.at.uc_link = nullptr;
  makecontext(&task.at, begin_task, 0);
  return task;
}

BaseType_t xTaskCreate(void (*body)(void *), const char *, uint32_t stack, void *, unsigned priority, TaskHandle_t *) {
  if (stack < configMINIMAL_STACK_SIZE) std::exit(6);
  made(body, int(priority));
  return pdTRUE;
}

BaseType_t xTaskCreatePinnedToCore(void (*body)(void *), const char *name, uint32_t stack, void *given,
                                   unsigned priority, TaskHandle_t *handle, int core) {
  if (core != xPortGetCoreID()) std::exit(7);  // one processor: another's tasks would not wait for its priorities
  return xTaskCreate(body, name, stack, given, priority, handle);
}

BaseType_t xTaskCreateAffinitySet(void (*body)(void *), const char *name, uint32_t stack, void *given,
                                  unsigned priority, unsigned cores, TaskHandle_t *handle) {
  if (cores != 1u << get_core_num()) std::exit(7);
  return xTaskCreate(body, name, stack, given, priority, handle);
}

int xPortGetCoreID() { return 1; }
unsigned get_core_num() { return 1; }

// The task of set-up ends: all others run from here on.
void vTaskDelete(TaskHandle_t) {
  if (!timers.empty()) daemon_task = &made(daemon_body, configTIMER_TASK_PRIORITY);
  made(idle_body, 0);
  zero_us = clock_us;
  runs = true;
  held_by = work;
  for (;;) {
    current = best();
    current->place = ++places;  // the list goes on with every choice
    swapcontext(&scheduler, &current->at);
  }
}

void vTaskSuspendAll() {}
BaseType_t xTaskResumeAll() { return pdFALSE; }
TickType_t xTaskGetTickCount() {
  called();
  return TickType_t(ticks);
}

void vTaskDelay(TickType_t many) {
  called();
  if (many) sleep_until(many == portMAX_DELAY ? NEVER : ticks + many);
}

void vTaskDelayUntil(TickType_t *due, TickType_t many) {
  called();
  *due += many;
  if (int64_t(int32_t(*due)) > ticks) sleep_until(int32_t(*due));
}

static KernelObject *object(size_t most, bool mutex) {
  KernelObject *one = new KernelObject;
  one->most = most;
  one->mutex = mutex;
  if (mutex) one->items.push_back(1);
  return one;
}

SemaphoreHandle_t xSemaphoreCreateBinary() { return object(1, false); }
SemaphoreHandle_t xSemaphoreCreateMutex() { return object(1, true); }
QueueHandle_t xQueueCreate(unsigned length, unsigned size) {
  if (size != 1) std::exit(8);
  return object(length, false);
}

static void wake(KernelObject *on, bool for_space) {
  KernelTask *found = nullptr;
  for (KernelTask &task : tasks)
    if (task.on == on && task.for_space == for_space &&
        (!found || task.priority > found->priority || (task.priority == found->priority && task.place < found->place)))
      found = &task;
  if (!found) return;
  ready(*found);
  give_way();
}

// Wait for an item, or for space, until a tick; whether there is any.
static bool have(KernelObject *of, bool space, TickType_t within) {
  const int64_t until = within == portMAX_DELAY ? NEVER : ticks + within;
  for (;;) {
    if (space ? of->items.size() < of->most : !of->items.empty()) return true;
    if (!within || !current) return false;
    if (ticks >= until) {  // who holds it goes back to what those lend it that still wait
      if (of->mutex && of->owner) {
        of->owner->priority = of->owner->own;
        for (KernelTask &task : tasks)
          if (task.on == of && task.priority > of->owner->priority) of->owner->priority = task.priority;
      }
      return false;
    }
    if (of->mutex && of->owner && of->owner->priority < current->priority) of->owner->priority = current->priority;
    sleep_until(until, of, space);
  }
}

BaseType_t xQueueReceive(QueueHandle_t of, void *into, TickType_t within) {
  called();
  if (!have(of, false, within)) return pdFALSE;
  if (into) *static_cast<uint8_t *>(into) = of->items.front();
  of->items.pop_front();
  if (of->mutex) of->owner = current;
  wake(of, true);
  return pdTRUE;
}

BaseType_t xQueueSend(QueueHandle_t of, const void *what, TickType_t within) {
  called();
  if (!have(of, true, within)) return pdFALSE;
  of->items.push_back(*static_cast<const uint8_t *>(what));
  if (of->mutex && of->owner) {
    of->owner->priority = of->owner->own;
    of->owner = nullptr;
  }
  wake(of, false);
  return pdTRUE;
}

BaseType_t xSemaphoreTake(SemaphoreHandle_t of, TickType_t within) { return xQueueReceive(of, nullptr, within); }
BaseType_t xSemaphoreGive(SemaphoreHandle_t of) {
  const uint8_t one = 1;
  if (of->mutex && of->owner != current) return pdFALSE;
  return xQueueSend(of, &one, 0);
}
static void in_an_interrupt() {
  if (current) std::exit(9);
}
BaseType_t xSemaphoreGiveFromISR(SemaphoreHandle_t of, BaseType_t *) {
  in_an_interrupt();
  return xSemaphoreGive(of);
}
BaseType_t xQueueSendFromISR(QueueHandle_t of, const void *what, BaseType_t *) {
  in_an_interrupt();
  return xQueueSend(of, what, 0);
}
BaseType_t xQueueReceiveFromISR(QueueHandle_t of, void *into, BaseType_t *) {
  in_an_interrupt();
  return xQueueReceive(of, into, 0);
}
unsigned uxQueueSpacesAvailable(QueueHandle_t of) { return unsigned(of->most - of->items.size()); }
BaseType_t xQueueIsQueueFullFromISR(QueueHandle_t of) { return of->items.size() == of->most; }

TimerHandle_t xTimerCreate(const char *, TickType_t period, BaseType_t again, void *, void (*over)(TimerHandle_t)) {
  timers.push_back({int64_t(period), NEVER, again == pdTRUE, over});
  return &timers.back();
}

BaseType_t xTimerReset(TimerHandle_t one, TickType_t) {
  called();
  one->due = ticks + one->period;
  if (daemon_task && !daemon_task->ready) {
    ready(*daemon_task);
    give_way();
  }
  return pdTRUE;
}
BaseType_t xTimerStart(TimerHandle_t one, TickType_t within) { return xTimerReset(one, within); }
BaseType_t xTimerResetFromISR(TimerHandle_t one, BaseType_t *) {
  in_an_interrupt();
  return xTimerReset(one, 0);
}
