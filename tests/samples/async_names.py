#! python@3.6 -> python@3.13
#: removed syntax.async_name
async = 3


def call(queue):
    #: removed syntax.async_name
    queue.put(1, async=True)
    #: removed syntax.async_name
    return queue.async


async def fine():
    await fine()
    async with fine() as x:
        pass
