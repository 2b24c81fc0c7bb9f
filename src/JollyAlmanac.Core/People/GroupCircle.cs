namespace JollyAlmanac.Core.People;

/// <summary>Groups hold groups, but never themselves.</summary>
public static class GroupCircle
{
    /// <summary>Whether a group would come to hold itself, were another put into it.</summary>
    /// <param name="group">The group.</param>
    /// <param name="held">The one that is to be put into it.</param>
    /// <param name="holds">For a group, those it holds.</param>
    public static bool Closes(GroupId group, GroupId held, ILookup<GroupId, GroupId> holds)
    {
        var (seen, next) = (new HashSet<GroupId> { held }, new Queue<GroupId>([held]));
        while (next.TryDequeue(out var one))
        {
            if (one == group)
                return true;
            foreach (var deeper in holds[one])
                if (seen.Add(deeper))
                    next.Enqueue(deeper);
        }

        return false;
    }
}
