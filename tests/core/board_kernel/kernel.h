// A kernel on the double: one processor, ticks of a millisecond, priorities, time slices, inheritance. Its calls are
// those that the emitted program makes (as that kernel's reference manual has them, from memory); it knows nothing of Viva Tick.
#pragma once
#include <cstdint>

struct KernelTask;
struct KernelObject;
struct KernelTimer;
typedef uint32_t TickType_t;
typedef uint8_t StackType_t;
typedef int BaseType_t;
typedef KernelTask *TaskHandle_t;
typedef KernelObject *QueueHandle_t, *SemaphoreHandle_t;
typedef KernelTimer *TimerHandle_t;
#define pdFALSE 0
#define pdTRUE 1
const TickType_t portMAX_DELAY = 0xFFFFFFFF;
const unsigned configMINIMAL_STACK_SIZE = 768;
constexpr TickType_t pdMS_TO_TICKS(uint32_t ms) { return ms; }

BaseType_t xTaskCreate(void (*)(void *), const char *, uint32_t, void *, unsigned, TaskHandle_t *);
BaseType_t xTaskCreatePinnedToCore(void (*)(void *), const char *, uint32_t, void *, unsigned, TaskHandle_t *, int);
BaseType_t xTaskCreateAffinitySet(void (*)(void *), const char *, uint32_t, void *, unsigned, unsigned, TaskHandle_t *);
int xPortGetCoreID();
unsigned get_core_num();
void vTaskDelete(TaskHandle_t);
void vTaskSuspendAll();
BaseType_t xTaskResumeAll();
TickType_t xTaskGetTickCount();
void vTaskDelay(TickType_t);
void vTaskDelayUntil(TickType_t *, TickType_t);

SemaphoreHandle_t xSemaphoreCreateBinary();
SemaphoreHandle_t xSemaphoreCreateMutex();
BaseType_t xSemaphoreTake(SemaphoreHandle_t, TickType_t);
BaseType_t xSemaphoreGive(SemaphoreHandle_t);
BaseType_t xSemaphoreGiveFromISR(SemaphoreHandle_t, BaseType_t *);
QueueHandle_t xQueueCreate(unsigned, unsigned);
BaseType_t xQueueSend(QueueHandle_t, const void *, TickType_t);
BaseType_t xQueueSendFromISR(QueueHandle_t, const void *, BaseType_t *);
BaseType_t xQueueReceive(QueueHandle_t, void *, TickType_t);
BaseType_t xQueueReceiveFromISR(QueueHandle_t, void *, BaseType_t *);
unsigned uxQueueSpacesAvailable(QueueHandle_t);
BaseType_t xQueueIsQueueFullFromISR(QueueHandle_t);

TimerHandle_t xTimerCreate(const char *, TickType_t, BaseType_t, void *, void (*)(TimerHandle_t));
BaseType_t xTimerStart(TimerHandle_t, TickType_t);
BaseType_t xTimerReset(TimerHandle_t, TickType_t);
BaseType_t xTimerResetFromISR(TimerHandle_t, BaseType_t *);
