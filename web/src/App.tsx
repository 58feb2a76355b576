import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { useSession } from "./api/session";
import { Bar } from "./frame/Bar";
import { SignIn } from "./frame/SignIn";
import { Boundary } from "./ui/Boundary";
import { Trouble } from "./frame/Trouble";
import { Waiting } from "./ui/Waiting";

const SitesPage = lazy(() => import("./sites/SitesPage"));
const UsersPage = lazy(() => import("./users/UsersPage"));
const BenchPage = lazy(() => import("./workspace/BenchPage"));
const ReviewPage = lazy(() => import("./review/ReviewPage"));

export function App() {
  return (
    <Routes>
      <Route
        path="/review/:token"
        element={
          <Boundary>
            <Suspense fallback={<Waiting />}>
              <ReviewPage />
            </Suspense>
          </Boundary>
        }
      />
      <Route path="*" element={<SignedIn />} />
    </Routes>
  );
}

/** All that wants an account. */
function SignedIn() {
  const session = useSession();
  if (session.error) return <Trouble error={session.error} again={() => void session.refetch()} />;
  if (!session.data) return <Bar />;
  if (!session.data.username) return <SignIn />;
  return (
    <Boundary>
      <Suspense fallback={<WholeWaiting />}>
        <Routes>
          <Route path="/" element={<SitesPage session={session.data} />} />
          {session.data.admin && <Route path="/users" element={<UsersPage session={session.data} />} />}
          <Route path="/sites/:id" element={<Navigate to="sort" replace />} />
          <Route path="/sites/:id/:stage" element={<BenchPage session={session.data} />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
    </Boundary>
  );
}

function WholeWaiting() {
  return (
    <>
      <Bar />
      <Waiting />
    </>
  );
}
