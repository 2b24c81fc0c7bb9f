using JollyAlmanac.Application.Joining;

namespace JollyAlmanac.Application.Tests;

/// <summary>
/// Providers of rooms may be slow or fail: nobody waits for ever, nothing is half done, and no transaction waits for them.
/// </summary>
public sealed class RoomProviderTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private static readonly LinkInput Room = new("Tide Room", Room: new RoomInput(MakeRoom: true));

    private EditJoinLinks With(IRoomProvider provider, TimeProvider? ticker = null) =>
        new(new Gate(school.Database, school.Clock), school.Database, new RoomProviders(provider, ticker));

    [Fact]
    public async Task One_that_never_answers_is_given_up_and_nothing_is_changed()
    {
        var before = school.Rows();
        var provider = new Silent();
        var outcome = await With(provider, new EndsAtOnce())
            .Add(school.Teacher, TestSchool.Slug, Room, TestContext.Current.CancellationToken);
        var problem = Assert.Single(TestSchool.Refused(outcome));
        Assert.Equal("MakeRoom", problem.Field);
        Assert.Contains("did not answer in time", problem.Message, StringComparison.Ordinal);
        Assert.Equal(before, school.Rows());
    }

    [Fact]
    public async Task While_one_is_waited_for_others_write()
    {
        var provider = new Silent();
        var waiting = With(provider).Add(school.Teacher, TestSchool.Slug, Room, TestContext.Current.CancellationToken);
        await provider.Asked.Task;
        school.Add();
        Assert.False(waiting.IsCompleted);
        provider.Answer.SetResult(new MadeRoom("room-7", new Uri("https://rooms.skerry.example/7"), "", "", []));
        Assert.Equal("Tide Room", TestSchool.Done(await waiting).Name);
        Assert.Empty(provider.Retired);
    }

    [Fact]
    public async Task A_room_that_nobody_keeps_goes_again()
    {
        var provider = new Silent();
        provider.Answer.SetResult(new MadeRoom("room-7", new Uri("https://rooms.skerry.example/7"), "", "", []));
        TestSchool.Refused(
            await With(provider)
                .Add(school.Teacher, TestSchool.Slug, Room with { Code = "no!" }, TestContext.Current.CancellationToken)
        );
        Assert.Equal(["room-7"], provider.Retired);
    }

    [Fact]
    public void None_is_asked_within_a_transaction()
    {
        school.Add();
        var code = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links[0].Code;
        Assert.Throws<InvalidOperationException>(() =>
            school.Database.Read(_ => school.Links.Renew(school.Teacher, code, sure: true, 1).Waited())
        );
        TestSchool.Done(school.Links.Renew(school.Teacher, code, sure: true, 1).Waited());
    }

    // Answers when the test says so, and then with one room.
    private sealed class Silent : IRoomProvider
    {
        public TaskCompletionSource<MadeRoom> Answer { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);

        public TaskCompletionSource Asked { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);

        public List<string> Retired { get; } = [];

        public string Name => "Silent rooms";

        public int? ReachDays => null;

        public Task<MadeRoom> Make(string name, CancellationToken cancellation)
        {
            Asked.TrySetResult();
            return Answer.Task;
        }

        public Task<Uri?> EntranceOf(string key, CancellationToken cancellation) => throw new NotSupportedException();

        public Task<Uri?> HostEntranceOf(string key, string host, CancellationToken cancellation) =>
            throw new NotSupportedException();

        public Task<RoomNow> Now(string key, CancellationToken cancellation) => throw new NotSupportedException();

        public Task Retire(string key, CancellationToken cancellation)
        {
            Retired.Add(key);
            return Task.CompletedTask;
        }
    }

    // Patience that is over as soon as it begins.
    private sealed class EndsAtOnce : TimeProvider
    {
        public override ITimer CreateTimer(TimerCallback callback, object? state, TimeSpan dueTime, TimeSpan period) =>
            System.CreateTimer(callback, state, TimeSpan.Zero, Timeout.InfiniteTimeSpan);
    }
}
